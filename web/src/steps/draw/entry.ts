// Typed texts on their way into the grid: read by the core, all of them or none.
import { ask, client, ProblemError } from "../../api/client";
import { setEntry } from "../../design/edits";
import { actions, openDocument } from "../../design/store";
import type { Part } from "../../design/types";

export type Cell = { part: string; mode: string };
export type Refusal = { message: string; choices: string[] };

/** Puts a text into each cell. Returns what is wrong, in which case nothing was changed. */
export async function enterTexts(cells: (Cell & { text: string })[], label: string): Promise<Refusal | null> {
  const design = openDocument().design;
  if (!design || cells.length === 0) return null;
  const parts = [...new Set(cells.map((c) => c.part))].flatMap((id) => design.parts.find((p) => p.id === id) ?? []);
  const position = new Map(parts.map((p, i) => [p.id, i]));
  try {
    const [first] = cells;
    const entries =
      cells.length === 1 && first
        ? [await ask(client.POST("/api/cell", { body: { text: first.text, part: parts[0] as Part } }))]
        : await ask(
            client.POST("/api/cells", {
              body: { parts, cells: cells.map((c) => ({ part: position.get(c.part) ?? 0, text: c.text })) },
            }),
          );
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
