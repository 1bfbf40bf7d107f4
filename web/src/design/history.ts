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

const key = (variant: number) => `ember.history.${variant}`;

type Kept = {
  revision: number;
  history: History;
  /** the document where it is not saved yet, and the one that it was made from */
  unsaved: { design: Design; base: Design } | null;
};

/** Keeps the history with the revision it belongs to, and the document where it is not saved yet. */
export function keep(variant: number, kept: Kept): void {
  try {
    localStorage.setItem(key(variant), JSON.stringify(kept));
  } catch {
    try {
      // full: the work before the way back
      localStorage.setItem(key(variant), JSON.stringify({ ...kept, history: EMPTY }));
    } catch {
      localStorage.removeItem(key(variant));
    }
  }
}

/** What was kept for a variant: all of it if it belongs to the revision that the server has now, otherwise only work that
 * was not saved. */
export function kept(variant: number, revision: number): Kept | null {
  try {
    const found = JSON.parse(localStorage.getItem(key(variant)) ?? "null") as Kept | null;
    if (!found || found.revision === revision) return found;
    return found.unsaved?.base ? { ...found, history: EMPTY } : null;
  } catch {
    return null;
  }
}
