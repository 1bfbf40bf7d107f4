// The open document: the one place where it is edited, evaluated, saved, undone and previewed.
// Everything that is shown is derived from `design` and `evaluation`.
import { produce } from "immer";
import { create } from "zustand";
import type { Operation } from "fast-json-patch";
import { ask, client, ProblemError, type FieldProblem } from "../api/client";
import { editBetween, EMPTY, keep, kept, patched, withEdit, type History } from "./history";
import type { Design, Evaluation, Remedy, Revision, Variant } from "./types";

export type SaveState =
  | { is: "saved" }
  | { is: "unsaved" }
  | { is: "saving" }
  | { is: "blocked" } // the document has a problem and is not sent
  | { is: "offline" }
  | { is: "stale"; theirs: Design; head: number };

type Preview = { label: string; patch: Operation[]; evaluation: Evaluation };

type DesignState = {
  variant: Variant | null;
  revision: Revision | null;
  design: Design | null;
  evaluation: Evaluation | null;
  baseline: Evaluation | null;
  /** the ways out of the findings, by their keys; null while they are being held against the design */
  ways: ReadonlyMap<string, Remedy> | null;
  problems: FieldProblem[];
  history: History;
  save: SaveState;
  preview: Preview | null;
  open: (variant: Variant) => void;
  edit: (label: string, change: (draft: Design) => void) => void;
  applyRemedy: (label: string, patch: Operation[]) => void;
  undo: () => void;
  redo: () => void;
  showPreview: (label: string, patch: Operation[]) => Promise<void>;
  endPreview: () => void;
  saveNow: (reason?: string) => Promise<void>;
  takeTheirs: () => void;
  keepMine: () => Promise<void>;
  setVariant: (variant: Variant) => void;
};

const SAVE_AFTER_MS = 700;
const WAYS_AFTER_MS = 400; // the second answer to an edit, once edits stand still
let saveTimer: ReturnType<typeof setTimeout> | undefined;
let evaluating: AbortController | undefined;
let saving: Promise<void> | null = null;

const NO_WAYS: ReadonlyMap<string, Remedy> = new Map();

async function waysOut(design: Design, signal: AbortSignal): Promise<ReadonlyMap<string, Remedy>> {
  await new Promise((done) => setTimeout(done, WAYS_AFTER_MS));
  signal.throwIfAborted();
  const answers = await ask(client.POST("/api/answers/remedies", { body: design as never, signal }));
  return new Map(answers.map((a) => [a.finding, a.remedy]));
}

async function evaluated(design: Design, signal?: AbortSignal): Promise<Evaluation> {
  return ask(client.POST("/api/evaluate", { body: design as never, signal }));
}

export const useDesign = create<DesignState>((set, get) => {
  const remember = () => {
    const { variant, revision, history, design, save } = get();
    if (variant && revision)
      keep(variant.id, {
        revision: revision.id,
        history,
        unsaved: save.is === "saved" ? null : design,
      });
  };

  const settle = (design: Design, history: History) => {
    set({ design, history, save: { is: "unsaved" }, preview: null });
    remember();
    void refresh();
    scheduleSave();
  };

  const scheduleSave = () => {
    clearTimeout(saveTimer);
    saveTimer = setTimeout(() => void get().saveNow(), SAVE_AFTER_MS);
  };

  const refresh = async () => {
    const design = get().design;
    if (!design) return;
    evaluating?.abort();
    const mine = (evaluating = new AbortController());
    try {
      const evaluation = await evaluated(design, mine.signal);
      if (mine !== evaluating) return;
      const open = evaluation.findings.some((f) => f.has_ways);
      set({ evaluation, problems: [], ways: open ? null : NO_WAYS });
      if (open)
        waysOut(design, mine.signal).then(
          (ways) => mine === evaluating && set({ ways }),
          () => mine === evaluating && !mine.signal.aborted && set({ ways: NO_WAYS }),
        );
      if (get().save.is === "blocked") {
        set({ save: { is: "unsaved" } }); // what was wrong is not any more
        scheduleSave();
      }
    } catch (error) {
      if (mine !== evaluating) return;
      if (error instanceof ProblemError) set({ problems: error.problems });
      else if (!mine.signal.aborted) set({ save: { is: "offline" } });
    }
  };

  return {
    variant: null,
    revision: null,
    design: null,
    evaluation: null,
    baseline: null,
    ways: null,
    problems: [],
    history: EMPTY,
    save: { is: "saved" },
    preview: null,

    open: (variant) => {
      clearTimeout(saveTimer);
      const found = kept(variant.id, variant.revision.id);
      const design = found?.unsaved ?? variant.design;
      set({
        variant,
        revision: variant.revision,
        design,
        evaluation: null,
        baseline: null,
        ways: null,
        problems: [],
        history: found?.history ?? EMPTY,
        save: { is: found?.unsaved ? "unsaved" : "saved" },
        preview: null,
      });
      void refresh();
      if (found?.unsaved) scheduleSave();
      get().setVariant(variant);
    },

    setVariant: (variant) => {
      set({ variant });
      const base = variant.baseline_design;
      if (!base) set({ baseline: null });
      else
        evaluated(base)
          .then((baseline) => get().variant?.id === variant.id && set({ baseline }))
          .catch(() => set({ baseline: null }));
    },

    edit: (label, change) => {
      const before = get().design;
      if (!before) return;
      const after = produce(before, (draft) => void change(draft as Design)); // what is not touched stays the same
      const edit = editBetween(label, before, after);
      if (edit) settle(after, withEdit(get().history, edit));
    },

    applyRemedy: (label, patch) => {
      const before = get().design;
      if (!before) return;
      const after = patched(before, patch);
      const edit = editBetween(label, before, after);
      if (edit) settle(after, withEdit(get().history, edit));
    },

    undo: () => {
      const { design, history } = get();
      const edit = history.past.at(-1);
      if (!design || !edit) return;
      settle(patched(design, edit.backward), {
        past: history.past.slice(0, -1),
        future: [...history.future, edit],
      });
    },

    redo: () => {
      const { design, history } = get();
      const edit = history.future.at(-1);
      if (!design || !edit) return;
      settle(patched(design, edit.forward), {
        past: [...history.past, edit],
        future: history.future.slice(0, -1),
      });
    },

    showPreview: async (label, patch) => {
      const design = get().design;
      if (!design) return;
      const evaluation = await evaluated(patched(design, patch));
      if (get().design === design) set({ preview: { label, patch, evaluation } });
    },

    endPreview: () => set({ preview: null }),

    saveNow: async (reason) => {
      clearTimeout(saveTimer);
      if (saving) await saving;
      const { design, revision, variant, save, problems } = get();
      if (!design || !revision || !variant || save.is === "stale") return;
      if (save.is === "saved" && reason === undefined) return;
      if (problems.length) {
        set({ save: { is: "blocked" } });
        return;
      }
      set({ save: { is: "saving" } });
      const work = ask(
        client.POST("/api/variants/{variant_id}/revisions", {
          params: { path: { variant_id: variant.id } },
          body: { base: revision.id, design, automatic: reason === undefined, reason: reason ?? "" },
        }),
      ).then(
        (saved) => {
          if (get().variant?.id !== variant.id) return;
          set({ revision: saved, save: { is: get().design === design ? "saved" : "unsaved" } });
          remember();
          if (get().design !== design) scheduleSave();
        },
        (error: unknown) => {
          if (get().variant?.id !== variant.id) return;
          if (error instanceof ProblemError && error.status === 409) {
            const theirs = error.more["design"] as Design;
            const head = error.more["head"] as number;
            if (editBetween("", theirs, design)) set({ save: { is: "stale", theirs, head } });
            else {
              // the same, from this very browser: a save that was still on its way when the page was left
              set({ revision: { ...revision, id: head }, save: { is: get().design === design ? "saved" : "unsaved" } });
              remember();
              if (get().design !== design) scheduleSave();
            }
          } else if (error instanceof ProblemError)
            set({
              save: { is: "blocked" },
              problems: error.problems.map((p) => ({ ...p, path: p.path.replace(/^\/design/, "") })),
            });
          else {
            set({ save: { is: "offline" } });
            saveTimer = setTimeout(() => void get().saveNow(), 5000);
          }
        },
      );
      saving = work;
      await work;
      saving = null;
    },

    takeTheirs: () => {
      const { save, revision } = get();
      if (save.is !== "stale" || !revision) return;
      set({
        design: save.theirs,
        revision: { ...revision, id: save.head },
        history: EMPTY,
        save: { is: "saved" },
        preview: null,
      });
      remember();
      void refresh();
    },

    keepMine: async () => {
      const { save, revision } = get();
      if (save.is !== "stale" || !revision) return;
      set({ revision: { ...revision, id: save.head }, save: { is: "unsaved" } });
      await get().saveNow("Kept over a change made elsewhere");
    },
  };
});

/** The state as it is now, for event handlers. */
export const openDocument = (): DesignState => useDesign.getState();

/** What can be done to the open document; the same functions for ever. */
export const actions: Pick<
  DesignState,
  | "edit"
  | "applyRemedy"
  | "undo"
  | "redo"
  | "showPreview"
  | "endPreview"
  | "saveNow"
  | "takeTheirs"
  | "keepMine"
  | "setVariant"
> = useDesign.getState();

/** The open document; only to be used below the gadget page, which waits for it. */
export function useOpenDesign(): Design {
  const design = useDesign((s) => s.design);
  if (!design) throw new Error("no document is open");
  return design;
}

/** The evaluation that is shown: that of the preview while there is one. */
export const useShown = (): Evaluation | null => useDesign((s) => s.preview?.evaluation ?? s.evaluation);

/** The problem at a place of the document, if the core has found one. */
export const useProblemAt = (path: string | undefined): string | undefined =>
  useDesign((s) => (path ? s.problems.find((p) => p.path === path)?.message : undefined));

// an edit of the last moment is in the browser's storage; this only saves the round trip
window.addEventListener("pagehide", () => void useDesign.getState().saveNow());
