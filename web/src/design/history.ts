// Undo and redo as pairs of JSON Patches, kept in the browser's storage so that they survive a reload.
import { applyPatch, compare, type Operation } from "fast-json-patch";
import type { Design } from "./types";

export type Edit = { label: string; forward: Operation[]; backward: Operation[] };
export type History = { past: Edit[]; future: Edit[] };

export const EMPTY: History = { past: [], future: [] };
const MOST_EDITS = 200;

/** The edit that leads from one document to another, or null where they are the same. */
export function editBetween(label: string, before: Design, after: Design): Edit | null {
  const forward = compare(before, after);
  return forward.length ? { label, forward, backward: compare(after, before) } : null;
}

export function patched(design: Design, patch: readonly Operation[]): Design {
  return applyPatch(structuredClone(design), structuredClone(patch) as Operation[]).newDocument;
}

export function withEdit(history: History, edit: Edit): History {
  return { past: [...history.past, edit].slice(-MOST_EDITS), future: [] };
}

type Kept = {
  revision: number;
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
 * server has now, otherwise only work that was not saved. */
export async function kept(variant: number, revision: number): Promise<Omit<Kept, "at"> | null> {
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
  // what is taken over, and what is of no use, is cleared; unsaved work of more windows waits for the next one
  for (const key of free) if (key === found?.key || !read(key)?.unsaved) localStorage.removeItem(key);
  if (!found) return null;
  const { whole } = found;
  keep(variant, whole);
  return whole.revision === revision ? whole : { ...whole, history: EMPTY };

  function rank({ key, whole }: { key: string; whole: Kept }): number {
    return whole.at + (whole.unsaved ? 1e15 : 0) + (key === own ? 2e15 : 0);
  }
}

function read(key: string): Kept | null {
  try {
    return JSON.parse(localStorage.getItem(key) ?? "null") as Kept | null;
  } catch {
    return null;
  }
}
