// Undo and redo as pairs of patches, kept in the browser's storage so that they survive a reload.
import { applyPatch, compare, type Operation } from "fast-json-patch";
import { applyPatches, enablePatches, produceWithPatches, type Patch } from "immer";
import { together } from "./merging";
import type { Design } from "./types";

enablePatches();

export type Edit = { label: string; forward: Patch[]; backward: Patch[] };
export type History = { past: Edit[]; future: Edit[] };

export const EMPTY: History = { past: [], future: [] };
const MOST_EDITS = 200;

/** A document after a change, and the edit that leads there; null where the change changes nothing. What is not touched
 * stays the same object. */
export function edited(label: string, before: Design, change: (draft: Design) => void): [Design, Edit] | null {
  const [after, forward, backward] = produceWithPatches(before, (draft) => {
    change(draft);
  });
  return forward.every((patch) => same(before, patch)) ? null : [after, { label, forward, backward }];
}

/** Whether a patch puts in what is there already. */
function same(before: Design, { op, path, value }: Patch): boolean {
  if (op !== "replace") return false;
  let here: unknown = before;
  for (const step of path) here = (here as Record<string | number, unknown> | undefined)?.[step];
  return JSON.stringify(here) === JSON.stringify(value);
}

export const forwards = (design: Design, edit: Edit): Design => applyPatches(design, edit.forward);
export const backwards = (design: Design, edit: Edit): Design => applyPatches(design, edit.backward);

/** A change that the core proposes, as a JSON Patch (RFC 6902). */
export function patched(design: Design, patch: readonly Operation[]): Design {
  return applyPatch(structuredClone(design), structuredClone(patch) as Operation[]).newDocument;
}

/** The edit that leads from one document to another that was made elsewhere, or null where they are the same. */
export function editBetween(label: string, before: Design, after: Design): Edit | null {
  const found = compare(before, after);
  return found.length ? (edited(label, before, (draft) => applied(draft, found))?.[1] ?? null) : null;
}

export function applied(draft: Design, patch: readonly Operation[]): void {
  applyPatch(draft, structuredClone(patch) as Operation[]);
}

export function withEdit(history: History, edit: Edit): History {
  return { past: [...history.past, edit].slice(-MOST_EDITS), future: [] };
}

/** The way back and forth of a document, carried over a change that came from elsewhere: `arrived` is what `here` became by
 * it. Each step then takes back, or does again, what it did before and nothing of the other; one that the other change has
 * taken over is left out. */
export function carried(history: History, here: Design, arrived: Design): History {
  const past: Edit[] = [];
  let [mine, theirs] = [here, arrived];
  for (const edit of history.past.toReversed()) {
    const before = backwards(mine, edit);
    const target = together(mine, before, theirs);
    const step = editBetween(edit.label, target, theirs);
    if (step) past.unshift(step);
    [mine, theirs] = [before, target];
  }
  const future: Edit[] = [];
  [mine, theirs] = [here, arrived];
  for (const edit of history.future.toReversed()) {
    const after = forwards(mine, edit);
    const target = together(mine, after, theirs);
    const step = editBetween(edit.label, theirs, target);
    if (step) future.unshift(step);
    [mine, theirs] = [after, target];
  }
  return { past, future };
}

type Kept = {
  revision: number;
  /** of the documents that the history leads through; what was kept before formats were told apart has none */
  format?: string;
  history: History;
  /** the document where it is not saved yet, and the one that it was made from */
  unsaved: { design: Design; base: Design } | null;
  at: number;
};

const PREFIX = "ember.history";
const lockOf = (tab: string) => `${PREFIX}.${tab}`;
let tab: string | null = null;

/** This window's own name. It outlives a reload; a window that was duplicated gets another one. Held as a lock, so that
 * others can tell a window that is open from one that is gone. */
async function thisWindow(): Promise<string> {
  if (tab !== null) return tab;
  let name = sessionStorage.getItem(PREFIX) ?? crypto.randomUUID();
  if (!(await hold(name))) {
    name = crypto.randomUUID();
    await hold(name);
  }
  sessionStorage.setItem(PREFIX, name);
  return (tab = name);
}

function hold(name: string): Promise<boolean> {
  if (!("locks" in navigator)) return Promise.resolve(true);
  return new Promise((done) => {
    void navigator.locks.request(lockOf(name), { ifAvailable: true }, (lock) => {
      done(lock !== null);
      return lock ? new Promise(() => undefined) : undefined; // for as long as the window is there
    });
  });
}

async function openWindows(): Promise<ReadonlySet<string>> {
  const held = "locks" in navigator ? (await navigator.locks.query()).held : [];
  return new Set(held?.map((l) => l.name ?? ""));
}

/** Keeps the history with the revision it belongs to, and the document where it is not saved yet. */
export function keep(variant: number, kept: Omit<Kept, "at">): void {
  if (tab === null) return;
  const key = `${PREFIX}.${variant}.${tab}`;
  const whole = { ...kept, at: Date.now() };
  try {
    localStorage.setItem(key, JSON.stringify(whole));
  } catch {
    try {
      // full: the work before the way back
      localStorage.setItem(key, JSON.stringify({ ...whole, history: EMPTY }));
    } catch {
      localStorage.removeItem(key);
    }
  }
}

/** What was kept for a variant by this window, or by one that is gone: all of it where it belongs to the revision that the
 * server has now, otherwise only work that was not saved. Work of an older format is brought up to the present one by
 * `upgrade`; the way back through older documents is gone. */
export async function kept(
  variant: number,
  revision: number,
  format: string,
  upgrade: (older: Design) => Promise<Design>,
): Promise<Omit<Kept, "at"> | null> {
  const own = `${PREFIX}.${variant}.${await thisWindow()}`;
  const open = await openWindows();
  const free = Object.keys(localStorage).filter(
    (k) => k.startsWith(`${PREFIX}.${variant}.`) && (k === own || !open.has(lockOf(k.split(".").at(-1)!))),
  );
  const found = free
    .flatMap((key) => {
      const whole = read(key);
      return whole ? [{ key, whole }] : [];
    })
    .filter(({ whole }) => whole.revision === revision || whole.unsaved?.base)
    .sort((a, b) => rank(b) - rank(a))[0];
  const whole = found ? await present(found.whole, format, upgrade) : null;
  // what is taken over, and what is of no use, is cleared; unsaved work of more windows waits for the next one
  for (const key of free) if (key === found?.key || !read(key)?.unsaved) localStorage.removeItem(key);
  if (!whole) return null;
  keep(variant, whole);
  return whole.revision === revision ? whole : { ...whole, history: EMPTY };

  function rank({ key, whole }: { key: string; whole: Kept }): number {
    return whole.at + (whole.unsaved ? 1e15 : 0) + (key === own ? 2e15 : 0);
  }
}

async function present(whole: Kept, format: string, upgrade: (older: Design) => Promise<Design>): Promise<Kept> {
  if (whole.format === format) return whole;
  const { unsaved } = whole;
  return {
    ...whole,
    format,
    history: EMPTY,
    unsaved: unsaved && { design: await upgrade(unsaved.design), base: await upgrade(unsaved.base) },
  };
}

function read(key: string): Kept | null {
  try {
    const whole = JSON.parse(localStorage.getItem(key) ?? "null") as Kept | null;
    return whole && { ...whole, history: readable(whole.history) ? whole.history : EMPTY };
  } catch {
    return null;
  }
}

/** A history that an earlier version of the application kept was written otherwise. */
function readable(history: History): boolean {
  return [...history.past, ...history.future].every((e) =>
    [...e.forward, ...e.backward].every((p) => Array.isArray(p.path)),
  );
}
