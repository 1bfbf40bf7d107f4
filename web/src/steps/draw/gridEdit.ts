// The grid's own state: the cell that is being edited, the other corner of the range, the last refusal.
import { create } from "zustand";
import type { Cell, Refusal } from "./entry";

export const useGridEdit = create<{
  editing: (Cell & { text: string | null }) | null;
  /** the corner that stays while the selection is stretched; null: a single cell */
  anchor: Cell | null;
  refusal: Refusal | null;
  begin: (cell: Cell, text: string | null) => void;
  end: () => void;
  stretchFrom: (anchor: Cell | null) => void;
  refuse: (refusal: Refusal | null) => void;
}>((set) => ({
  editing: null,
  anchor: null,
  refusal: null,
  begin: (cell, text) => set({ editing: { ...cell, text }, refusal: null }),
  end: () => set({ editing: null }),
  stretchFrom: (anchor) => set({ anchor }),
  refuse: (refusal) => set({ refusal }),
}));

/** The rectangle between two cells, row by row; `order` and `modes` are ids as shown. */
export function rangeOf(order: string[], modes: string[], from: Cell, to: Cell): Cell[][] {
  const span = (ids: string[], a: string, b: string) => {
    const [i, j] = [ids.indexOf(a), ids.indexOf(b)];
    return i < 0 || j < 0 ? [] : ids.slice(Math.min(i, j), Math.max(i, j) + 1);
  };
  const columns = span(modes, from.mode, to.mode);
  return span(order, from.part, to.part).map((part) => columns.map((mode) => ({ part, mode })));
}

/** Texts as a spreadsheet takes them: tabs between cells, a line a row. */
export const toTsv = (rows: string[][]): string => rows.map((r) => r.join("\t")).join("\n");

export const fromTsv = (text: string): string[][] =>
  text
    .replace(/\r\n?/g, "\n")
    .replace(/\n$/, "")
    .split("\n")
    .map((line) => line.split("\t").map((cell) => cell.trim().replace(/^"(.*)"$/, "$1")));
