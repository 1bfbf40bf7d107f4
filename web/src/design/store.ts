// The open document: the one place where it is edited, evaluated, saved, undone and previewed.
// Everything that is shown is derived from `design` and `evaluation`.
import { create } from "zustand";
import type { Operation } from "fast-json-patch";
import { ask, client, ProblemError, type FieldProblem, type Schemas } from "../api/client";
import {
  applied,
  backwards,
  carried,
  edited,
  editBetween,
  EMPTY,
  forwards,
  keep,
  kept,
  patched,
  withEdit,
  type History,
} from "./history";
import { together } from "./merging";
import { shapeOf } from "./shape";
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

type Preview = { label: string; patch: Operation[]; evaluation: Evaluation };

type DesignState = {
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

const SAVE_AFTER_MS = 700;
const WAYS_AFTER_MS = 400; // the second answer to an edit, once edits stand still
const RETRY_FIRST_MS = 2000;
const RETRY_LONGEST_MS = 30_000;
const EVALUATION_AT_MOST_MS = 3000; // a save waits so long for the evaluation of the same edit, and then goes without
let saveTimer: ReturnType<typeof setTimeout> | undefined;
let retryTimer: ReturnType<typeof setTimeout> | undefined;
let retryMs = RETRY_FIRST_MS;
let evaluating: AbortController | undefined;
let evaluation: Promise<void> = Promise.resolve();
let running: Design | null = null; // what is being evaluated
let saving: Promise<void> | null = null;
/** the server's receipts for evaluations of documents: a save of the same one is not evaluated again */
const receipts = new WeakMap<Design, string>();
/** the document that the figures on the screen are of */
let figuresOf: Design | null = null;

const windows = new BroadcastChannel("ember");

const NO_WAYS: ReadonlyMap<string, Remedy> = new Map();

async function waysOut(design: Design, signal: AbortSignal): Promise<ReadonlyMap<string, Remedy>> {
  await new Promise((done) => setTimeout(done, WAYS_AFTER_MS));
  signal.throwIfAborted();
  const answers = await ask(client.POST("/api/answers/remedies", { body: design, signal }));
  return new Map(answers.map((a) => [a.finding, a.remedy]));
}

async function evaluated(design: Design, signal?: AbortSignal): Promise<Evaluation> {
  const call = client.POST("/api/evaluate", { body: design, signal });
  const found = await ask(call);
  const text = (await call).response.headers.get("Evaluation-Receipt");
  if (text) receipts.set(design, text);
  return found;
}

const pause = (ms: number) => new Promise<void>((done) => setTimeout(done, ms));

/** "Battery › cell › capacity is now 600 mAh" */
function inWords(brought: readonly Schemas["Difference"][]): string {
  const told = brought.slice(0, 3).map((d) => `${d.place} is now ${d.theirs}`);
  return told.join("; ") + (brought.length > 3 ? `; and ${brought.length - 3} more` : "");
}

export const useDesign = create<DesignState>((set, get) => {
  const onlyReads = () => get().variant?.project.role === "view";

  const remember = () => {
    const { variant, revision, history, design, stored, save } = get();
    if (variant && revision)
      keep(variant.id, {
        revision: revision.id,
        format: shapeOf(variant.design.format),
        history,
        unsaved: save.is === "saved" || onlyReads() || !design || !stored ? null : { design, base: stored },
      });
  };

  const settle = (design: Design, history: History) => {
    set({ design, history, save: { is: "unsaved" }, preview: null });
    remember();
    refresh();
    scheduleSave();
  };

  const scheduleSave = () => {
    clearTimeout(saveTimer);
    if (onlyReads()) return set({ save: { is: "reading" } });
    saveTimer = setTimeout(() => void get().saveNow(), SAVE_AFTER_MS);
  };

  /** No answer, or "not now": said, kept in this browser, and tried again with growing pauses. */
  const tryLater = (error: unknown) => {
    const out = error instanceof ProblemError && error.status === 401;
    const said = error instanceof ProblemError ? error.message : undefined;
    set({ save: out ? { is: "signed-out" } : { is: "offline", said } });
    remember();
    clearTimeout(retryTimer);
    retryTimer = setTimeout(tryAgain, retryMs);
    retryMs = Math.min(2 * retryMs, RETRY_LONGEST_MS);
  };

  const tryAgain = () => {
    clearTimeout(retryTimer);
    const { save, design, stored } = get();
    if (save.is !== "offline" && save.is !== "signed-out") return;
    if (figuresOf !== design && running !== design) refresh();
    else if (design === stored) set({ save: { is: "saved" } });
    void get().saveNow();
  };

  const isPassing = (error: unknown) => !(error instanceof ProblemError) || error.passing || error.status === 401;

  const refresh = () => {
    evaluation = evaluateNow();
  };

  const evaluateNow = async () => {
    const { design, stored } = get();
    if (!design) return;
    evaluating?.abort();
    const mine = (evaluating = new AbortController());
    running = design;
    try {
      const found = await evaluated(design, mine.signal);
      if (mine !== evaluating) return;
      const open = found.findings.some((f) => f.has_ways);
      figuresOf = design;
      set({ evaluation: found, problems: [], ways: open ? null : NO_WAYS });
      if (open)
        waysOut(design, mine.signal).then(
          (ways) => mine === evaluating && set({ ways }),
          () => mine === evaluating && !mine.signal.aborted && set({ ways: NO_WAYS }),
        );
      const was = get().save.is;
      if (was === "blocked") {
        set({ save: { is: "unsaved" } }); // what was wrong is not any more
        scheduleSave();
      } else if ((was === "offline" || was === "signed-out") && design === stored) {
        retryMs = RETRY_FIRST_MS;
        set({ save: { is: "saved" } });
      }
    } catch (error) {
      if (mine !== evaluating || mine.signal.aborted) return;
      if (isPassing(error)) return tryLater(error);
      set({ problems: (error as ProblemError).problems });
      if (get().evaluation !== null || !stored || stored === design) return;
      const before = await evaluated(stored, mine.signal).catch(() => null); // figures from before rather than none
      if (before && mine === evaluating) set({ evaluation: before });
    } finally {
      if (mine === evaluating) running = null;
    }
  };

  /** Takes over a document that is stored, or one with this window's edits put onto it. What was edited here can be taken
   * back as before, without what came from elsewhere; what this window gave up for the other, too. */
  const adopt = (revision: Revision, stored: Design, design: Design, notice: string | null, gaveUp = false) => {
    const onto = editBetween("", stored, design) !== null;
    const { design: here, history } = get();
    const step = gaveUp && here ? editBetween("Going on with the other", here, design) : null;
    const carriedOver = here && !gaveUp ? carried(history, here, design) : EMPTY;
    set({
      revision,
      stored,
      design: onto ? design : stored,
      history: step ? withEdit(history, step) : carriedOver,
      save: { is: onto ? "unsaved" : "saved" },
      preview: null,
      notice,
    });
    remember();
    refresh();
    if (onto) scheduleSave();
  };

  /** A save met a newer revision: the edits of both are put together, and where they meet, it is asked. */
  const meet = async (revision: Revision, base: Design, mine: Design, theirs: Design, head: number) => {
    if (!editBetween("", theirs, mine)) {
      // the same, from this very browser: a save that was still on its way when the page was left
      const same = get().design === mine;
      set({ revision: { ...revision, id: head }, stored: theirs, save: { is: same ? "saved" : "unsaved" } });
      remember();
      if (!same) scheduleSave();
      return;
    }
    const merged = await ask(client.POST("/api/answers/merge", { body: { base, mine, theirs } }));
    const now = get().design;
    if (!now || merged.conflicts.length) {
      if (now !== mine) return scheduleSave(); // edited meanwhile: what is asked is asked of what is there
      set({ save: { is: "stale", merged, theirs, head } });
      return;
    }
    // what was edited while the answer was on its way goes on top, so that the next save has the newest base whatever is typed
    const design = now === mine ? merged.mine_first : together(mine, merged.mine_first, now);
    const brought = merged.brought.length > 0;
    const notice = brought ? `Put together with a change made in another window: ${inWords(merged.brought)}.` : null;
    adopt({ ...revision, id: head }, theirs, design, notice);
  };

  window.addEventListener("online", tryAgain);

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
      clearTimeout(saveTimer);
      clearTimeout(retryTimer);
      const found = await kept(variant.id, variant.revision.id, shapeOf(variant.design.format), (older) =>
        ask(client.POST("/api/designs/present", { body: older })),
      );
      const design = found?.unsaved?.design ?? variant.design;
      figuresOf = null;
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
      refresh();
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

    saveNow: async (reason, leaving = false) => {
      clearTimeout(saveTimer);
      if (!leaving) await Promise.race([evaluation, pause(EVALUATION_AT_MOST_MS)]);
      // of several that wait one goes first, and the others wait again
      for (let last = saving; last; last = saving) await last;
      const { design, revision, stored, variant, save, problems } = get();
      if (!design || !revision || !stored || !variant || save.is === "stale" || onlyReads()) return;
      if (save.is === "saved" && reason === undefined) return;
      if (problems.length) {
        set({ save: { is: "blocked" } });
        return;
      }
      set({ save: { is: "saving" } });
      const open = () => get().variant?.id === variant.id;
      const body = {
        base: revision.id,
        design,
        automatic: reason === undefined,
        reason: reason ?? "",
        receipt: receipts.get(design) ?? "",
      };
      const work = ask(
        client.POST("/api/variants/{variant_id}/revisions", {
          params: { path: { variant_id: variant.id } },
          body: body,
        }),
      )
        .then((saved) => {
          windows.postMessage({ variant: variant.id, revision: saved.id });
          if (!open()) return;
          retryMs = RETRY_FIRST_MS;
          set({ revision: saved, stored: design, save: { is: get().design === design ? "saved" : "unsaved" } });
          remember();
          if (get().design !== design) scheduleSave();
          if (figuresOf !== get().design && running !== get().design) refresh();
        })
        .catch(async (error: unknown) => {
          if (!open()) return;
          if (error instanceof ProblemError && error.status === 409)
            return meet(revision, stored, design, error.more["design"] as Design, error.more["head"] as number);
          if (isPassing(error)) return tryLater(error);
          const { problems: found, message } = error as ProblemError;
          set({
            save: { is: "blocked" },
            problems: found.length
              ? found.map((p) => ({ ...p, path: p.path.replace(/^\/design/, "") }))
              : [{ path: "", message }],
          });
        })
        .catch(tryLater);
      saving = work;
      await work;
      saving = null;
    },

    catchUp: async () => {
      const { variant, save } = get();
      if (!variant) return;
      if (save.is === "unsaved") return get().saveNow(); // meets what is there, and is put together with it
      if (save.is !== "saved") return;
      const path = { variant_id: variant.id };
      const found = await ask(client.GET("/api/variants/{variant_id}", { params: { path } })).catch(() => null);
      const { revision, stored, design } = get();
      if (!found || !revision || !stored || get().save.is !== "saved" || get().variant?.id !== variant.id) return;
      if (found.revision.id === revision.id || design !== stored) return;
      if (!editBetween("", stored, found.design)) {
        set({ revision: found.revision }); // the same document under a newer number
        return remember();
      }
      const body = { base: stored, mine: stored, theirs: found.design };
      const merged = await ask(client.POST("/api/answers/merge", { body: body })).catch(() => null);
      if (!merged || get().design !== stored) return; // what brings it in is the next save, or the next look
      const said = merged.brought.length ? `Changed in another window: ${inWords(merged.brought)}.` : null;
      adopt(found.revision, found.design, found.design, said);
    },

    forgetNotice: () => set({ notice: null }),

    takeTheirs: () => {
      const { save, revision } = get();
      if (save.is === "stale" && revision)
        adopt({ ...revision, id: save.head }, save.theirs, save.merged.theirs_first, null, true);
    },

    keepMine: async () => {
      const { save, revision } = get();
      if (save.is !== "stale" || !revision) return;
      adopt({ ...revision, id: save.head }, save.theirs, save.merged.mine_first, null);
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

// an edit of the last moment is in the browser's storage; this only saves the round trip
window.addEventListener("pagehide", () => void useDesign.getState().saveNow(undefined, true));

// what another window saved arrives here; from another browser it does when one comes back to this window
windows.addEventListener("message", (e: MessageEvent<{ variant: number; revision: number }>) => {
  const { variant, revision, catchUp } = useDesign.getState();
  if (variant?.id === e.data.variant && revision?.id !== e.data.revision) void catchUp();
});
window.addEventListener("focus", () => void useDesign.getState().catchUp());
