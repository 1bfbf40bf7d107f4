// Bodies by the place in the document that the core names them with ("/parts/3", "/battery" ...).
import type { Body, Design } from "../../design/types";

function holder(design: Design, where: string): { name?: string; body?: Body | null } | undefined {
  let here: unknown = design;
  for (const key of where.split("/").slice(1)) here = (here as Record<string, unknown> | undefined)?.[key];
  return here as { name?: string; body?: Body | null } | undefined;
}

export const bodyAt = (design: Design, where: string): Body | null => holder(design, where)?.body ?? null;

export const bodyName = (design: Design, where: string): string =>
  where === "/battery" ? design.battery.cell.name : (holder(design, where)?.name ?? "");
