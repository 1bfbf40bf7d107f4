// Edits of the document that touch more than one place, as functions on a draft.
import { current, isDraft } from "immer";
import type { Schemas } from "../api/client";
import type { Body, Design, Mode, Part, Stage, Use } from "./types";

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

/** The state at work: as the part says, or the last of its list, which goes from the calmest to the busiest. */
const workingState = (part: Part) => part.states.find((s) => s.name === part.working) ?? part.states.at(-1);

/** Catalogue parts list their states from the calmest to the busiest: at rest it is the calmest, at work the working one. */
function firstUse(part: Part, resting: boolean): Use {
  const state = (resting ? part.states[0] : workingState(part)) ?? part.states[0]!;
  return { part: part.id, state: state.name, duty: 1, rest: null, burst: [], period_s: null };
}

/** What is not there while the gadget rests: what the user plugs in, and a lamp without a dark state, unless it came
 * along on a module. */
const absentAtRest = (part: Part): boolean =>
  part.plugged_by_user || (!part.parasitic && part.states.every((s) => s.draw.behaviour === "led"));

/** Adds a part, on a suitable rail where any is known, with a use in every mode: calm in the rest mode, at work in the others. */
export function addPart(
  draft: Design,
  part: Part,
  origin: Part["origin"] = null,
  suitable: readonly string[] = [],
): string {
  const rails = draft.supply.rails;
  const id = freshId(
    part.id,
    draft.parts.map((p) => p.id),
  );
  const wanted = rails.find((r) => r.id === part.rail) ?? rails[0]!;
  const rail = suitable.length && !suitable.includes(wanted.id) ? rails.find((r) => suitable.includes(r.id))! : wanted;
  const added: Part = { ...copied(part), id, rail: rail.id, origin };
  if (added.body) Object.assign(added.body, { position_mm: null, on: null });
  draft.parts.push(added);
  for (const mode of draft.modes) {
    const resting = mode.id === draft.day.rest || mode.switched_off;
    const dark = resting && absentAtRest(added);
    // a mode has a part at least: then it is there, for no share of the time
    if (!dark || mode.uses.length === 0) mode.uses.push({ ...firstUse(added, resting), duty: dark ? 0 : 1 });
  }
  return id;
}

/** A part of one's own to begin with: two states, both guesses until they are typed over. */
export function ownPart(name: string): Part {
  const state = (called: string, typical: number): Part["states"][number] => ({
    name: called,
    draw: { behaviour: "current", current_a: { typical, min: null, max: null } },
    provenance: "guess",
    source: "",
  });
  return {
    id: name,
    name: name.slice(0, 120),
    kind: "other",
    rail: "",
    quantity: 1,
    states: [state("sleep", 1e-6), state("active", 0.01)],
    working: "active",
    parasitic: false,
    switchable: false,
    analogue: false,
    plugged_by_user: false,
    outside: false,
    bursts: [],
    wakes: [],
    pins: [],
    needs: [],
    alternatives: [],
    mass_g: 0,
    cost: 0,
    note: "",
  };
}

const AXES = ["x", "y", "z"] as const;

/** Something that takes room and has no place yet. */
export const newBody = (size_mm: [number, number, number]): Body => ({
  size_mm,
  shape: "cuboid",
  along: "z",
  hull_mm: [],
  surface: null,
  file: null,
  off_mm: 0,
  blocks: [],
  holes: [],
  turn_deg: [0, 0, 0],
  position_mm: null,
  through: null,
  window: null,
  fits: "free",
  zones: [],
  on: null,
});

const ROW = 4; // cylinders from which on two layers are made

/** The room of the whole pack, as the core reckons it (`pack_size_mm`): pouches and coins on each other, others beside
 * each other, from four on in two layers. The pack stays where it lies. */
export function fitPack(draft: Design): void {
  const { cell, series, parallel, body } = draft.battery;
  const count = series * parallel;
  const [x, y, z] = cell.size_mm;
  const layers = count < ROW ? 1 : 2;
  const thin = cell.form === "pouch" ? 2 : cell.size_mm.indexOf(Math.min(x, y, z));
  const size: [number, number, number] =
    cell.form === "pouch" || cell.form === "coin"
      ? [x * (thin === 0 ? count : 1), y * (thin === 1 ? count : 1), z * (thin === 2 ? count : 1)]
      : [x * Math.ceil(count / layers), y, z * layers];
  const round = cell.form === "coin" || (cell.form === "cylinder" && count === 1);
  const middle = [...size].sort((a, b) => a - b)[1]!;
  const odd = size.reduce((best, v, i) => (Math.abs(v - middle) > Math.abs(size[best]! - middle) ? i : best), 0);
  const others = size.filter((_, i) => i !== odd);
  draft.battery.body = {
    ...newBody(size),
    ...body,
    size_mm: size,
    hull_mm: [],
    surface: null,
    file: null,
    off_mm: 0,
    blocks: [],
    holes: [],
    shape: round && others[0] === others[1] ? "cylinder" : "cuboid",
    along: AXES[odd]!,
  };
}

type Cell = Design["battery"]["cell"];

/** Where the circuits that cells of a kind usually carry cut off [V]; others carry none. As in the core (`new_cells`). */
export const USUAL_CUT_V: Partial<Record<Cell["chemistry"], number>> = {
  "lithium-ion": 2.5,
  "lithium-iron-phosphate": 2,
};

/** A protection circuit goes with its cells. */
export function setChemistry(draft: Design, chemistry: Cell["chemistry"]): void {
  const { battery } = draft;
  const usual = USUAL_CUT_V[chemistry];
  if (battery.cell.chemistry === chemistry) return;
  battery.cell.chemistry = chemistry;
  if (usual === undefined) battery.protection = null;
  else if (battery.protection) battery.protection.cut_v_per_cell = usual;
}

/** A cell in the place of the present one, with the room that its pack takes. */
export function takeCell(draft: Design, cell: Cell): void {
  setChemistry(draft, cell.chemistry);
  draft.battery.cell = structuredClone(cell);
  fitPack(draft);
}

/** Everything in the design that has a body. */
function bodiesOf(draft: Design): Body[] {
  const holders = [...draft.parts, ...draft.supply.stages, draft.battery, draft.charger];
  return holders.flatMap((holder) => (holder?.body ? [holder.body] : []));
}

export function removePart(draft: Design, id: string): void {
  draft.parts = draft.parts.filter((p) => p.id !== id);
  for (const mode of draft.modes) mode.uses = mode.uses.filter((u) => u.part !== id);
  for (const part of draft.parts) {
    if (part.divider?.reader === id) part.divider.reader = null;
    if (part.way === id) part.way = null;
  }
  for (const body of bodiesOf(draft)) if (body.on === id) body.on = null;
  withoutFilms(draft, id);
}

/** Films go with what they lie on, and posts carry it no more. */
function withoutFilms(draft: Design, key: string): void {
  const { enclosure } = draft;
  for (const held of enclosure.fastenings) if (held.carries === key) held.carries = null;
  enclosure.films = enclosure.films.filter((f) => f.first !== key && f.second !== key);
}

export function removeCharger(draft: Design): void {
  draft.charger = null;
  withoutFilms(draft, "charger");
}

/** A new mode begins as a copy of another one, so that it never stands without parts. */
/** A deep copy, of a draft or of plain data. */
export const copied = <T>(value: T): T => structuredClone(isDraft(value) ? current(value) : value);

export function copyMode(draft: Design, from: string, name: string): string {
  const index = draft.modes.findIndex((m) => m.id === from);
  const source = draft.modes[index]!;
  const copy: Mode = {
    ...copied(source),
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
  for (const event of [...draft.day.sessions, ...draft.day.wakes]) if (event.before?.mode === id) event.before = null;
  for (const session of draft.day.sessions) if (session.after?.mode === id) session.after = null;
  if (draft.charger?.mode === id) draft.charger.mode = null;
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
  for (const item of [...part!.wakes, ...part!.bursts.flatMap((b) => b.phases)])
    if (item.state === from) item.state = to;
  if (part!.peak?.state === from) part!.peak.state = to;
  if (part!.working === from) part!.working = to;
}

/** Removes a state that no mode uses, with what was said of it. */
export function removeState(part: Part, name: string): void {
  part.states = part.states.filter((s) => s.name !== name);
  part.wakes = part.wakes.filter((w) => w.state !== name);
  part.bursts = part.bursts.filter((b) => b.phases.every((p) => p.state !== name));
  if (part.peak?.state === name) part.peak.state = null;
  if (part.working === name) part.working = null;
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

/** The ids that a stage or a source must not have. */
const feedIds = (draft: Design): string[] => [...draft.supply.stages, ...draft.supply.sources].map((s) => s.id);

export function addSource(draft: Design, kind: Schemas["Source"]["kind"], name: string): string {
  const id = freshId(kind, feedIds(draft));
  draft.supply.sources.push({ id, name, kind, voltage_v: 5, resistance_ohm: 0.2, limit_a: 0.5, auto_shutoff_a: 0 });
  return id;
}

/** Removes a source; what it fed is fed by the battery, and no mode plugs it in any more. */
export function removeSource(draft: Design, id: string): void {
  draft.supply.sources = draft.supply.sources.filter((s) => s.id !== id);
  refeed(draft, id, "battery");
  for (const mode of draft.modes) mode.plugged = mode.plugged.filter((s) => s !== id);
}

function refeed(draft: Design, from: string, to: string): void {
  for (const stage of draft.supply.stages) {
    if (stage.input === from) stage.input = to;
    if (stage.type === "power-or" && stage.other === from) stage.other = to;
  }
  for (const rail of draft.supply.rails) if (rail.feed === from) rail.feed = to;
}

export function addStage(draft: Design, stage: Stage, input: string, origin: Stage["origin"] = null): string {
  const id = freshId(stage.id, feedIds(draft));
  const added: Stage = { ...copied(stage), id, input, origin };
  if (added.type === "power-or") added.other = draft.supply.sources[0]?.id ?? "battery";
  if (added.body) Object.assign(added.body, { position_mm: null, on: null });
  draft.supply.stages.push(added);
  return id;
}

/** Puts a stage between a feed and what hangs on it now: all of that, or only one stage or rail. */
export function insertStage(
  draft: Design,
  stage: Stage,
  feed: string,
  only: { kind: "stage" | "rail"; id: string } | null,
  origin: Stage["origin"],
): string {
  const { stages, rails } = draft.supply;
  const below = (kind: "stage" | "rail", id: string) => only === null || (only.kind === kind && only.id === id);
  const moving = stages.filter((s) => below("stage", s.id)).map((s) => s.id);
  const id = addStage(draft, stage, feed, origin);
  for (const s of draft.supply.stages.filter((x) => moving.includes(x.id))) {
    if (s.input === feed) s.input = id;
    if (s.type === "power-or" && s.other === feed) s.other = id;
  }
  for (const r of rails) if (below("rail", r.id) && r.feed === feed) r.feed = id;
  return id;
}

/** Removes a stage; what it fed is fed by what fed it. */
export function removeStage(draft: Design, id: string): void {
  const gone = draft.supply.stages.find((s) => s.id === id);
  if (!gone) return;
  draft.supply.stages = draft.supply.stages.filter((s) => s.id !== id);
  refeed(draft, id, gone.input);
  for (const mode of draft.modes) mode.off_stages = mode.off_stages.filter((s) => s !== id);
  withoutFilms(draft, id);
}

/** Whether a mode has a part in a state, for some of its time at least. */
export const modeUses = (mode: Design["modes"][number], partId: string, state: string): boolean =>
  mode.uses.some(
    (u) => u.part === partId && (u.state === state || u.rest === state || u.burst.some((p) => p.state === state)),
  );

/** The state that a typed current is for. */
export function stateMeant(design: Design, entry: Schemas["CellEntry"], partId: string, mode: string): string {
  const use = design.modes.find((m) => m.id === mode)?.uses.find((u) => u.part === partId);
  return entry.state ?? use?.state ?? design.parts.find((p) => p.id === partId)?.states[0]?.name ?? "";
}

/** What a typed cell means, put into a mode. A current is for all that use the state, unless it is meant here only. */
export function setEntry(draft: Design, entry: Schemas["CellEntry"], partId: string, mode: string): void {
  if (entry.clear) return setUse(draft, mode, partId, null);
  const part = draft.parts.find((p) => p.id === partId);
  const meant = stateMeant(draft, entry, partId, mode);
  const change: Partial<Use> = {};
  if (entry.state) {
    change.state = entry.state;
    change.duty = entry.duty ?? 1;
    change.burst = entry.burst ?? [];
    change.period_s = entry.period_s ?? null;
  } else if (entry.duty !== null && entry.duty !== undefined) change.duty = entry.duty;
  if (entry.rest_given) change.rest = entry.rest ?? null;
  setUse(draft, mode, partId, change);
  if (entry.adds && entry.draw && part && !part.states.some((s) => s.name === meant))
    part.states.push({ name: meant, draw: entry.draw, provenance: "guess", source: "" });
  const state = part?.states.find((s) => s.name === meant);
  if (!entry.draw || !part || !state) return;
  const others = draft.modes.some((m) => m.id !== mode && modeUses(m, partId, meant));
  const own = entry.scope === "here" && others ? ownState(draft, part, state, mode) : state;
  own.draw = entry.draw;
  if (own.provenance !== "measured") own.provenance = "guess";
}

/** A state that only this mode uses, like another one, which it takes the place of there. */
function ownState(draft: Design, part: Part, like: Part["states"][number], mode: string): Part["states"][number] {
  const base = `${like.name}, ${draft.modes.find((m) => m.id === mode)?.name.toLowerCase() ?? mode}`.slice(0, 70);
  const usedElsewhere = (name: string) => draft.modes.some((m) => m.id !== mode && modeUses(m, part.id, name));
  const nameOf = (k: number) => (k > 1 ? `${base} ${k}` : base);
  let k = 1;
  while (usedElsewhere(nameOf(k))) k += 1;
  let own = part.states.find((s) => s.name === nameOf(k));
  if (!own) {
    own = { ...copied(like), name: nameOf(k) };
    // in its place from the calmest to the busiest, without becoming the last, the one at work
    const at = part.states.indexOf(like);
    part.states.splice(at === part.states.length - 1 ? at : at + 1, 0, own);
    own = part.states.find((s) => s.name === nameOf(k)) ?? own; // as the draft has it
  }
  const instead = (name: string) => (name === like.name ? nameOf(k) : name);
  for (const use of draft.modes.find((m) => m.id === mode)?.uses.filter((u) => u.part === part.id) ?? []) {
    use.state = instead(use.state);
    if (use.rest) use.rest = instead(use.rest);
    for (const phase of use.burst) phase.state = instead(phase.state);
  }
  return own;
}
