// Bodies by the place in the document that the core names them with ("/parts/3", "/battery" ...).
import { fitPack, newBody } from "../../design/edits";
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
export function place(draft: Design, where: string, corner: [number, number, number]): void {
  const thing = holder(draft, where);
  if (!thing) return;
  if (!thing.body && where === "/battery") fitPack(draft);
  const body = (thing.body ??= newBody([...UNKNOWN_MM]));
  body.position_mm = corner;
}

const AXES = ["x", "y", "z"] as const;

/** A quarter turn: two sides are exchanged, and a cylinder lies along the other one; what is from a file or has blocks is turned. */
export function quarter(body: Body, a: 0 | 1 | 2, b: 0 | 1 | 2): void {
  if (body.shape === "mesh" || body.shape === "board") {
    const axis = 3 - a - b;
    body.turn_deg[axis] = (body.turn_deg[axis]! + 90) % 360;
    return;
  }
  [body.size_mm[a], body.size_mm[b]] = [body.size_mm[b], body.size_mm[a]];
  if (body.along === AXES[a]) body.along = AXES[b];
  else if (body.along === AXES[b]) body.along = AXES[a];
}

/** Moves what has a place; to a hundredth of a millimetre. */
function shift(body: Body | null, by: readonly [number, number, number]): void {
  if (!body?.position_mm) return;
  body.position_mm = body.position_mm.map((v, i) => Number((v + by[i]!).toFixed(2))) as [number, number, number];
}

/** Everything that may have a place, in the document's order. */
function everything(design: Design): string[] {
  return [
    ...design.parts.map((_, i) => `/parts/${i}`),
    ...design.supply.stages.map((_, i) => `/supply/stages/${i}`),
    ...(design.charger ? ["/charger"] : []),
    "/battery",
    ...design.enclosure.fastenings.map((_, i) => `/enclosure/fastenings/${i}`),
  ];
}

export function removeFastening(draft: Design, where: string): void {
  draft.enclosure.fastenings.splice(Number(where.slice("/enclosure/fastenings/".length)), 1);
}

export const fasteningAt = (design: Design, where: string) =>
  isFastening(where) ? design.enclosure.fastenings[Number(where.slice("/enclosure/fastenings/".length))] : undefined;

export const isFastening = (where: string) => where.startsWith("/enclosure/fastenings/");

type Keyed = [key: string, name: string, body?: Body | null];

/** What films and posts call everything that may have one. */
export const keyed = (design: Design): Keyed[] => [
  ...design.parts.filter((p) => p.body).map((p): Keyed => [p.id, p.name, p.body]),
  ...design.supply.stages.filter((s) => s.body).map((s): Keyed => [s.id, s.name, s.body]),
  ...(design.charger?.body ? [["charger", design.charger.name, design.charger.body] satisfies Keyed] : []),
  ["battery", design.battery.cell.name, design.battery.body],
];

/** What films call a thing; nothing for a piece of the case. */
export function bodyKey(design: Design, where: string): string | null {
  if (where === "/battery" || where === "/charger") return where.slice(1);
  if (where.startsWith("/supply/stages/"))
    return design.supply.stages[Number(where.slice("/supply/stages/".length))]?.id ?? null;
  return partAt(design, where)?.id ?? null;
}

/** The part that something is, or nothing. */
export const partAt = (design: Design, where: string) =>
  where.startsWith("/parts/") ? design.parts[Number(where.slice("/parts/".length))] : undefined;

/** Moves something, and what sits on it with it. */
export function shiftAll(draft: Design, where: string, by: readonly [number, number, number]): void {
  const id = partAt(draft, where)?.id;
  for (const other of everything(draft)) {
    const body = bodyAt(draft, other);
    if (other === where || (id !== undefined && body?.on === id)) shift(body, by);
  }
}
