// Edits of the document that touch more than one place, as functions on a draft.
import type { Design, Mode, Part, Stage, Use } from "./types";

export function freshId(wanted: string, taken: Iterable<string>): string {
  const used = new Set(taken);
  const base =
    wanted
      .toLowerCase()
      .replaceAll(/[^a-z0-9]+/g, "-")
      .replaceAll(/^-+|-+$/g, "")
      .slice(0, 40) || "item";
  let id = base;
  for (let n = 2; used.has(id) || id === "battery"; n += 1) id = `${base}-${n}`;
  return id;
}

/** Catalogue parts list their states from the calmest to the busiest. */
function firstUse(part: Part, resting: boolean): Use {
  const state = part.states[resting ? 0 : Math.min(1, part.states.length - 1)] ?? part.states[0]!;
  return { part: part.id, state: state.name, duty: 1, rest: null, burst: [], period_s: null };
}

/** Adds a part with a use in every mode: calm in the rest mode, at work in the others. */
export function addPart(draft: Design, part: Part): string {
  const rails = draft.supply.rails;
  const id = freshId(
    part.id,
    draft.parts.map((p) => p.id),
  );
  const rail = rails.find((r) => r.id === part.rail) ?? rails[0]!;
  const added: Part = { ...structuredClone(part), id, rail: rail.id };
  if (added.body) added.body.position_mm = null;
  draft.parts.push(added);
  for (const mode of draft.modes) mode.uses.push(firstUse(added, mode.id === draft.day.rest));
  return id;
}

export function removePart(draft: Design, id: string): void {
  draft.parts = draft.parts.filter((p) => p.id !== id);
  for (const mode of draft.modes) mode.uses = mode.uses.filter((u) => u.part !== id);
}

/** A new mode begins as a copy of another one, so that it never stands without parts. */
export function copyMode(draft: Design, from: string, name: string): string {
  const index = draft.modes.findIndex((m) => m.id === from);
  const source = draft.modes[index]!;
  const copy: Mode = {
    ...structuredClone(source),
    id: freshId(
      name,
      draft.modes.map((m) => m.id),
    ),
    name,
  };
  draft.modes.splice(index + 1, 0, copy);
  return copy.id;
}

/** Removes a mode with the sessions and wakes that use it; the rest mode moves to the first one left. */
export function removeMode(draft: Design, id: string): void {
  draft.modes = draft.modes.filter((m) => m.id !== id);
  draft.day.sessions = draft.day.sessions.filter((s) => s.mode !== id);
  draft.day.wakes = draft.day.wakes.filter((w) => w.mode !== id);
  if (draft.day.rest === id) draft.day.rest = draft.modes[0]!.id;
}

export function renameState(draft: Design, partId: string, from: string, to: string): void {
  const part = draft.parts.find((p) => p.id === partId);
  const state = part?.states.find((s) => s.name === from);
  if (!state) return;
  state.name = to;
  for (const use of draft.modes.flatMap((m) => m.uses).filter((u) => u.part === partId)) {
    if (use.state === from) use.state = to;
    if (use.rest === from) use.rest = to;
    for (const phase of use.burst) if (phase.state === from) phase.state = to;
  }
}

export function setUse(draft: Design, modeId: string, partId: string, change: Partial<Use> | null): void {
  const mode = draft.modes.find((m) => m.id === modeId);
  const part = draft.parts.find((p) => p.id === partId);
  if (!mode || !part) return;
  const index = mode.uses.findIndex((u) => u.part === partId);
  if (change === null) {
    if (index >= 0) mode.uses.splice(index, 1);
    return;
  }
  const now = mode.uses[index] ?? firstUse(part, true);
  const next: Use = { ...now, ...change };
  if (index >= 0) mode.uses[index] = next;
  else mode.uses.push(next);
}

export function addStage(draft: Design, stage: Stage, input: string): string {
  const id = freshId(
    stage.id,
    draft.supply.stages.map((s) => s.id),
  );
  const added: Stage = { ...structuredClone(stage), id, input };
  if (added.body) added.body.position_mm = null;
  draft.supply.stages.push(added);
  return id;
}

/** Removes a stage; what it fed is fed by what fed it. */
export function removeStage(draft: Design, id: string): void {
  const gone = draft.supply.stages.find((s) => s.id === id);
  if (!gone) return;
  draft.supply.stages = draft.supply.stages.filter((s) => s.id !== id);
  for (const stage of draft.supply.stages) if (stage.input === id) stage.input = gone.input;
  for (const rail of draft.supply.rails) if (rail.feed === id) rail.feed = gone.input;
}
