// Bodies by the place in the document that the core names them with ("/parts/3", "/battery" ...).
import { fitPack } from "../../design/edits";
import type { Body, Design } from "../../design/types";

function holder(design: Design, where: string): { name?: string; body?: Body | null } | undefined {
  let here: unknown = design;
  for (const key of where.split("/").slice(1)) here = (here as Record<string, unknown> | undefined)?.[key];
  return here as { name?: string; body?: Body | null } | undefined;
}

export const bodyAt = (design: Design, where: string): Body | null => holder(design, where)?.body ?? null;

export const bodyName = (design: Design, where: string): string =>
  where === "/battery" ? design.battery.cell.name : (holder(design, where)?.name ?? "");

const UNKNOWN_MM: [number, number, number] = [10, 10, 3]; // a size to begin with where nobody said one

/** Puts something into a corner of the case; what has no size yet gets one to begin with. */
export function place(draft: Design, where: string, corner: number): void {
  const thing = holder(draft, where);
  if (!thing) return;
  if (!thing.body && where === "/battery") fitPack(draft);
  thing.body ??= { size_mm: [...UNKNOWN_MM], position_mm: null, through: null };
  thing.body.position_mm = [corner, corner, corner];
}
