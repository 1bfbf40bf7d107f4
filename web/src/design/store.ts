// The open document: the one place where it is edited, undone and previewed; `saving` and `evaluating` work on it.
// Everything that is shown is derived from `design` and `evaluation`.
import { create } from "zustand";
import { ask, client } from "../api/client";
import { evaluated } from "./evaluating";
import { applied, backwards, edited, EMPTY, forwards, kept, patched, withEdit, type History } from "./history";
import { saving } from "./saving";
import { shapeOf } from "./shape";
import type { DesignState } from "./state";
import type { Design, Evaluation } from "./types";

export type { SaveState } from "./state";

export const useDesign = create<DesignState>((set, get) => {
  const saver = saving({ get, set });

  const settle = (design: Design, history: History) => {
    set({ design, history, save: { is: "unsaved" }, preview: null });
    saver.changed();
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
    stored: null,
    notice: null,

    open: async (variant) => {
      saver.opening();
      const found = await kept(variant.id, variant.revision.id, shapeOf(variant.design.format), (older) =>
        ask(client.POST("/api/designs/present", { body: older })),
      );
      const design = found?.unsaved?.design ?? variant.design;
      set({
        variant,
        // work that was not saved still belongs to the revision that it was made from
        revision: { ...variant.revision, id: found?.unsaved ? found.revision : variant.revision.id },
        stored: found?.unsaved?.base ?? variant.design,
        design,
        notice: null,
        evaluation: null,
        baseline: null,
        ways: null,
        problems: [],
        history: found?.history ?? EMPTY,
        save: { is: variant.project.role === "view" ? "reading" : found?.unsaved ? "unsaved" : "saved" },
        preview: null,
      });
      saver.opened(!!found?.unsaved);
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
      const done = before && edited(label, before, change);
      if (done) settle(done[0], withEdit(get().history, done[1]));
    },

    applyRemedy: (label, patch) => get().edit(label, (draft) => applied(draft, patch)),

    undo: () => {
      const { design, history } = get();
      const edit = history.past.at(-1);
      if (!design || !edit) return;
      settle(backwards(design, edit), {
        past: history.past.slice(0, -1),
        future: [...history.future, edit],
      });
    },

    redo: () => {
      const { design, history } = get();
      const edit = history.future.at(-1);
      if (!design || !edit) return;
      settle(forwards(design, edit), {
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

    saveNow: saver.saveNow,
    catchUp: saver.catchUp,
    takeTheirs: saver.takeTheirs,
    keepMine: saver.keepMine,
    forgetNotice: () => set({ notice: null }),
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
  | "forgetNotice"
> = useDesign.getState();

/** The open document; only to be used below the gadget page, which waits for it. */
export function useOpenDesign(): Design {
  const design = useDesign((s) => s.design);
  if (!design) throw new Error("no document is open");
  return design;
}

/** Whether what is done to the open gadget is kept; who only looks sees the same without the ways to change it. */
export const useMayChange = (): boolean => useDesign((s) => s.variant?.project.role !== "view");

/** The evaluation that is shown: that of the preview while there is one. */
export const useShown = (): Evaluation | null => useDesign((s) => s.preview?.evaluation ?? s.evaluation);

/** The problem at a place of the document, if the core has found one. */
export const useProblemAt = (path: string | undefined): string | undefined =>
  useDesign((s) => (path ? s.problems.find((p) => p.path === path)?.message : undefined));
