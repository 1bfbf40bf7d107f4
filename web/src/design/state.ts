// What is known of the open document, and what can be done to it.
import type { Operation } from "fast-json-patch";
import type { FieldProblem, Schemas } from "../api/client";
import type { History } from "./history";
import type { Design, Evaluation, Remedy, Revision, Variant } from "./types";

export type SaveState =
  | { is: "saved" }
  | { is: "unsaved" }
  | { is: "saving" }
  | { is: "reading" } // only looking: what is changed here is not kept
  | { is: "blocked" } // the document has a problem and is not sent
  | { is: "offline"; said?: string } // no answer, or one that says "not now": kept here and tried again
  | { is: "signed-out" } // the same, until somebody signs in again
  | { is: "stale"; merged: Schemas["Merged"]; theirs: Design; head: number };

export type Preview = { label: string; patch: Operation[]; evaluation: Evaluation };

export type DesignState = {
  variant: Variant | null;
  revision: Revision | null;
  design: Design | null;
  /** the document of `revision`, as the server has it */
  stored: Design | null;
  evaluation: Evaluation | null;
  baseline: Evaluation | null;
  /** the ways out of the findings, by their keys; null while they are being held against the design */
  ways: ReadonlyMap<string, Remedy> | null;
  problems: FieldProblem[];
  history: History;
  save: SaveState;
  preview: Preview | null;
  /** what came from another window, in words */
  notice: string | null;
  open: (variant: Variant) => Promise<void>;
  edit: (label: string, change: (draft: Design) => void) => void;
  applyRemedy: (label: string, patch: Operation[]) => void;
  undo: () => void;
  redo: () => void;
  showPreview: (label: string, patch: Operation[]) => Promise<void>;
  endPreview: () => void;
  saveNow: (reason?: string, leaving?: boolean) => Promise<void>;
  catchUp: () => Promise<void>;
  forgetNotice: () => void;
  takeTheirs: () => void;
  keepMine: () => Promise<void>;
  setVariant: (variant: Variant) => void;
};

/** The state, for what works on it: evaluating, saving. */
export type Store = {
  get: () => DesignState;
  set: (change: Partial<DesignState>) => void;
};

/** Who only looks sees everything; what is changed is not kept. */
export const onlyReads = ({ get }: Store): boolean => get().variant?.project.role === "view";
