// Typed texts on their way into the grid: read by the core, all of them or none.
import { ask, client, ProblemError } from "../../api/client";
import { modeUses, setEntry, stateMeant } from "../../design/edits";
import { actions, openDocument } from "../../design/store";
import type { components } from "../../api/generated";
import type { Design, Part } from "../../design/types";

type Entry = components["schemas"]["CellEntry"];
export type Cell = { part: string; mode: string };
export type Refusal = { message: string; choices: string[] };

type Text = Cell & { text: string };

/** What the core has to know of a cell to read a text for it. */
function readable(design: Design, cell: Text) {
  const use = design.modes.find((m) => m.id === cell.mode)?.uses.find((u) => u.part === cell.part);
  const rail = design.parts.find((p) => p.id === cell.part)?.rail;
  const found = openDocument().evaluation?.draw.rails.find((r) => r.rail === rail && r.mode === cell.mode);
  return { text: cell.text, now: use?.state, rail_v: found?.voltage_v || undefined };
}

/** The other modes that use the state a typed current is for, and do not get the same text. */
function modesBeside(design: Design, cells: Text[], cell: Text, entry: Entry): Design["modes"] {
  if (!entry.draw || entry.scope) return [];
  const state = stateMeant(design, entry, cell.part, cell.mode);
  const same = new Set(cells.filter((c) => c.part === cell.part && c.text === cell.text).map((c) => c.mode));
  return design.modes.filter((m) => !same.has(m.id) && modeUses(m, cell.part, state));
}

/** Asks which modes a typed current is for, where others use the state too and nobody said so. */
function askedBack(design: Design, cells: Text[], entries: Entry[]): Refusal | null {
  for (const [i, cell] of cells.entries()) {
    const entry = entries[i];
    const others = entry ? modesBeside(design, cells, cell, entry) : [];
    if (!entry || !others.length) continue;
    const names = others.map((m) => m.name).join(", ");
    return {
      message: `“${stateMeant(design, entry, cell.part, cell.mode)}” is used in other modes too: ${names}. Is that its current everywhere, or only here?`,
      choices: [`${cell.text.trim()} here`, `${cell.text.trim()} everywhere`],
    };
  }
  return null;
}

/** Puts a text into each cell. Returns what is wrong or doubtful, in which case nothing was changed. What is pasted or
 * filled (`askBack` false) changes no other mode. */
export async function enterTexts(cells: Text[], label: string, askBack = true): Promise<Refusal | null> {
  const design = openDocument().design;
  if (!design || cells.length === 0) return null;
  const parts = [...new Set(cells.map((c) => c.part))].flatMap((id) => design.parts.find((p) => p.id === id) ?? []);
  const position = new Map(parts.map((p, i) => [p.id, i]));
  try {
    const [first] = cells;
    const entries =
      cells.length === 1 && first
        ? [await ask(client.POST("/api/cell", { body: { ...readable(design, first), part: parts[0] as Part } }))]
        : await ask(
            client.POST("/api/cells", {
              body: { parts, cells: cells.map((c) => ({ part: position.get(c.part) ?? 0, ...readable(design, c) })) },
            }),
          );
    const doubt = askBack ? askedBack(design, cells, entries) : null;
    if (doubt) return doubt;
    for (const [i, cell] of cells.entries()) {
      const entry = entries[i];
      if (entry && modesBeside(design, cells, cell, entry).length > 0) entry.scope = "here";
    }
    actions.edit(label, (draft) => {
      for (const [i, cell] of cells.entries()) {
        const entry = entries[i];
        if (entry) setEntry(draft, entry, cell.part, cell.mode);
      }
    });
    return null;
  } catch (error) {
    if (!(error instanceof ProblemError)) return { message: "The server does not answer; try again.", choices: [] };
    const choices = (error.more["choices"] as string[] | undefined) ?? [];
    const places = error.problems.map((p) => {
      const cell = cells[Number(/^\/cells\/(\d+)\//.exec(p.path)?.[1] ?? NaN)];
      const name = design.parts.find((x) => x.id === cell?.part)?.name;
      return name ? `${name}: ${p.message}` : p.message;
    });
    const message = cells.length === 1 ? error.message : [error.message, ...places.slice(0, 4)].join(". ");
    return { message, choices };
  }
}
