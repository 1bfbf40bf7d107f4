// What the grid's gestures come to, apart from the page: where the selection goes, and which text goes into which cell.
import Papa from "papaparse";
import type { Cell } from "./entry";

/** The ids as they are shown: parts from top to bottom, modes from left to right. */
export type Grid = { parts: readonly string[]; modes: readonly string[] };
/** The cell that has the focus, and the corner that stays while the selection is stretched; null: a single cell. */
export type Selection = { at: Cell; anchor: Cell | null };
export type Target = Cell & { text: string };
export type Gesture =
  | { do: "move"; down: number; across: number; stretch: boolean }
  | { do: "take"; cell: Cell; stretch: boolean }
  | { do: "single" };

const within = (i: number, length: number) => Math.max(0, Math.min(length - 1, i));

export function selectionAfter({ parts, modes }: Grid, now: Selection, gesture: Gesture): Selection {
  switch (gesture.do) {
    case "single":
      return { ...now, anchor: null };
    case "take":
      return { at: gesture.cell, anchor: gesture.stretch ? (now.anchor ?? now.at) : null };
    default: {
      const part = parts[within(parts.indexOf(now.at.part) + gesture.down, parts.length)];
      const mode = modes[within(modes.indexOf(now.at.mode) + gesture.across, modes.length)];
      if (!part || !mode) return now;
      return { at: { part, mode }, anchor: gesture.stretch ? (now.anchor ?? now.at) : null };
    }
  }
}

/** The rectangle of the selection, row by row. */
export function rangeOf({ parts, modes }: Grid, { at, anchor }: Selection): Cell[][] {
  const from = anchor ?? at;
  const span = (ids: readonly string[], a: string, b: string) => {
    const [i, j] = [ids.indexOf(a), ids.indexOf(b)];
    return i < 0 || j < 0 ? [] : ids.slice(Math.min(i, j), Math.max(i, j) + 1);
  };
  const columns = span(modes, from.mode, at.mode);
  return span(parts, from.part, at.part).map((part) => columns.map((mode) => ({ part, mode })));
}

/** Every cell of the range with the text of its first row, or of its first column. */
export function filled(range: Cell[][], from: "above" | "left", textOf: (cell: Cell) => string): Target[] {
  return range.flatMap((row) =>
    row.map((cell, j) => ({ ...cell, text: textOf((from === "left" ? row[0] : range[0]?.[j]) ?? cell) })),
  );
}

/** A block of texts from the range's first cell on, as far as the grid goes; a single text goes into every cell of the range. */
export function pasted({ parts, modes }: Grid, range: Cell[][], block: string[][]): Target[] {
  const single = block.length === 1 && block[0]?.length === 1 ? block[0][0] : undefined;
  if (single !== undefined) return range.flat().map((cell) => ({ ...cell, text: single }));
  const corner = range[0]?.[0];
  if (!corner) return [];
  const [top, left] = [parts.indexOf(corner.part), modes.indexOf(corner.mode)];
  return block.flatMap((line, i) =>
    line.flatMap((text, j) => {
      const [part, mode] = [parts[top + i], modes[left + j]];
      return part && mode ? [{ part, mode, text }] : [];
    }),
  );
}

/** Texts as a spreadsheet takes them: tabs between cells, a line a row, quotes where a text needs them. */
export const toTsv = (rows: string[][]): string => Papa.unparse(rows, { delimiter: "\t", newline: "\n" });

export const fromTsv = (text: string): string[][] =>
  Papa.parse<string[]>(text.replace(/(\r\n?|\n)$/, ""), { delimiter: "\t" }).data.map((row) =>
    row.map((cell) => cell.trim()),
  );
