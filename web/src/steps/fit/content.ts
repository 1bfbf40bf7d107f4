// What of a document is drawn in space.
import type { Schemas } from "../../api/client";
import type { Design, Evaluation } from "../../design/types";
import { bodyAt } from "./bodies";
import type { Content, Shown, Triple } from "./scene";

export const TINTS: Record<string, string> = { pass: "--soft", watch: "--watch", fail: "--fail" };

/** The bodies that have a place; `warmth`, where that is shown, by their places in the document. */
export function shownBodies(
  design: Design,
  fit: Evaluation["fit"],
  warmth: ReadonlyMap<string, { near: number }> | null,
): Shown[] {
  return fit.bodies.flatMap((row): Shown[] => {
    const body = bodyAt(design, row.where);
    if (!body) return [];
    const swelling = [0, 1, 2].map((i) => (row.swelling_axis === i ? row.swelling_mm : 0)) as unknown as Triple;
    return [
      {
        where: row.where,
        name: row.name,
        body,
        tint: row.status === "pass" && row.where === "/battery" ? "--ember" : (TINTS[row.status] ?? "--soft"),
        made: row.made_of,
        swelling,
        copies: row.copies,
        window: row.window,
        near: warmth && (warmth.get(row.where)?.near ?? 0),
      },
    ];
  });
}

/** The case with its bodies. `theme` is there so that the colours are read anew. */
export function contentOf(
  { enclosure }: Design,
  fit: Evaluation["fit"],
  bodies: readonly Shown[],
  own: Schemas["ShellAnswer"] | null,
  theme: string,
): Content {
  return {
    outer: enclosure.outer_mm,
    walls: fit.walls_mm,
    corner: enclosure.corner_mm,
    innerCorner: fit.inner_corner_mm,
    split: enclosure.split_mm ?? enclosure.outer_mm[2],
    own,
    bodies,
    thin: fit.thin,
    theme,
  };
}
