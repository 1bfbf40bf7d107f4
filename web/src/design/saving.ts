// Saving the open document: a moment after the last edit, again and again without a connection, put together with what another
// window saved meanwhile, and asked about where both changed the same.
import { ask, client, ProblemError, type Schemas } from "../api/client";
import { evaluating, isPassing, receiptOf } from "./evaluating";
import { carried, editBetween, EMPTY, keep, withEdit } from "./history";
import { together } from "./merging";
import { shapeOf } from "./shape";
import { onlyReads, type DesignState, type Store } from "./state";
import type { Design, Revision } from "./types";

const SAVE_AFTER_MS = 700;
const RETRY_FIRST_MS = 2000;
const RETRY_LONGEST_MS = 30_000;
const EVALUATION_AT_MOST_MS = 3000; // a save waits so long for the evaluation of the same edit, and then goes without

const windows = new BroadcastChannel("ember");

const pause = (ms: number) => new Promise<void>((done) => setTimeout(done, ms));

/** "Battery › cell › capacity is now 600 mAh" */
function inWords(brought: readonly Schemas["Difference"][]): string {
  const told = brought.slice(0, 3).map((d) => `${d.place} is now ${d.theirs}`);
  return told.join("; ") + (brought.length > 3 ? `; and ${brought.length - 3} more` : "");
}

type Saving = Pick<DesignState, "saveNow" | "catchUp" | "takeTheirs" | "keepMine"> & {
  /** the document was changed here: evaluated now, saved in a moment */
  changed: () => void;
  /** another document is about to be opened: nothing more of the one before */
  opening: () => void;
  opened: (unsaved: boolean) => void;
};

export function saving(store: Store): Saving {
  const { get, set } = store;
  let saveTimer: ReturnType<typeof setTimeout> | undefined;
  let retryTimer: ReturnType<typeof setTimeout> | undefined;
  let retryMs = RETRY_FIRST_MS;
  let running: Promise<void> | null = null;

  const remember = () => {
    const { variant, revision, history, design, stored, save } = get();
    if (variant && revision)
      keep(variant.id, {
        revision: revision.id,
        format: shapeOf(variant.design.format),
        history,
        unsaved: save.is === "saved" || onlyReads(store) || !design || !stored ? null : { design, base: stored },
      });
  };

  const scheduleSave = () => {
    clearTimeout(saveTimer);
    if (onlyReads(store)) return set({ save: { is: "reading" } });
    saveTimer = setTimeout(() => void saveNow(), SAVE_AFTER_MS);
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
    if (!evaluation.knows(design)) evaluation.refresh();
    else if (design === stored) set({ save: { is: "saved" } });
    void saveNow();
  };

  const evaluation = evaluating(store, {
    found: (design) => {
      const was = get().save.is;
      if (was === "blocked") {
        set({ save: { is: "unsaved" } }); // what was wrong is not any more
        scheduleSave();
      } else if ((was === "offline" || was === "signed-out") && design === get().stored) {
        retryMs = RETRY_FIRST_MS;
        set({ save: { is: "saved" } });
      }
    },
    failed: tryLater,
  });

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
    evaluation.refresh();
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

  const saveNow = async (reason?: string, leaving = false) => {
    clearTimeout(saveTimer);
    if (!leaving) await Promise.race([evaluation.done(), pause(EVALUATION_AT_MOST_MS)]);
    // of several that wait one goes first, and the others wait again
    for (let last = running; last; last = running) await last;
    const { design, revision, stored, variant, save, problems } = get();
    if (!design || !revision || !stored || !variant || save.is === "stale" || onlyReads(store)) return;
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
      receipt: receiptOf(design),
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
        if (!evaluation.knows(get().design)) evaluation.refresh();
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
    running = work;
    await work;
    running = null;
  };

  const catchUp = async () => {
    const { variant, save } = get();
    if (!variant) return;
    if (save.is === "unsaved") return saveNow(); // meets what is there, and is put together with it
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
  };

  const takeTheirs = () => {
    const { save, revision } = get();
    if (save.is === "stale" && revision)
      adopt({ ...revision, id: save.head }, save.theirs, save.merged.theirs_first, null, true);
  };

  const keepMine = async () => {
    const { save, revision } = get();
    if (save.is !== "stale" || !revision) return;
    adopt({ ...revision, id: save.head }, save.theirs, save.merged.mine_first, null);
    await saveNow("Kept over a change made elsewhere");
  };

  window.addEventListener("online", tryAgain);
  // an edit of the last moment is in the browser's storage; this only saves the round trip
  window.addEventListener("pagehide", () => void saveNow(undefined, true));
  // what another window saved arrives here; from another browser it does when one comes back to this window
  windows.addEventListener("message", (e: MessageEvent<{ variant: number; revision: number }>) => {
    const { variant, revision } = get();
    if (variant?.id === e.data.variant && revision?.id !== e.data.revision) void catchUp();
  });
  window.addEventListener("focus", () => void catchUp());

  return {
    saveNow,
    catchUp,
    takeTheirs,
    keepMine,
    changed: () => {
      remember();
      evaluation.refresh();
      scheduleSave();
    },
    opening: () => {
      clearTimeout(saveTimer);
      clearTimeout(retryTimer);
    },
    opened: (unsaved) => {
      evaluation.forget();
      evaluation.refresh();
      if (unsaved) scheduleSave();
    },
  };
}
