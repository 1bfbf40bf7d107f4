// What the core says of the open document: one evaluation at a time, of the newest edit, and the ways out once edits stand still.
import { ask, client, ProblemError } from "../api/client";
import type { Store } from "./state";
import type { Design, Evaluation, Remedy } from "./types";

const WAYS_AFTER_MS = 400; // the second answer to an edit, once edits stand still

/** the server's receipts for evaluations of documents: a save of the same one is not evaluated again */
const receipts = new WeakMap<Design, string>();
export const receiptOf = (design: Design): string => receipts.get(design) ?? "";

const NO_WAYS: ReadonlyMap<string, Remedy> = new Map();

async function waysOut(design: Design, signal: AbortSignal): Promise<ReadonlyMap<string, Remedy>> {
  await new Promise((done) => setTimeout(done, WAYS_AFTER_MS));
  signal.throwIfAborted();
  const answers = await ask(client.POST("/api/answers/remedies", { body: design, signal }));
  return new Map(answers.map((a) => [a.finding, a.remedy]));
}

export async function evaluated(design: Design, signal?: AbortSignal): Promise<Evaluation> {
  const call = client.POST("/api/evaluate", { body: design, signal });
  const found = await ask(call);
  const text = (await call).response.headers.get("Evaluation-Receipt");
  if (text) receipts.set(design, text);
  return found;
}

/** What passes by itself: no connection, a server that is busy, somebody who has to sign in again. */
export const isPassing = (error: unknown): boolean =>
  !(error instanceof ProblemError) || error.passing || error.status === 401;

/** `found` is told of each evaluation that is shown, `failed` of one that passes by itself. */
export function evaluating(
  { get, set }: Store,
  { found: told, failed }: { found: (design: Design) => void; failed: (error: unknown) => void },
) {
  let asking: AbortController | undefined;
  let last: Promise<void> = Promise.resolve();
  let running: Design | null = null; // what is being evaluated
  let figuresOf: Design | null = null; // the document that the figures on the screen are of

  const evaluate = async () => {
    const { design, stored } = get();
    if (!design) return;
    asking?.abort();
    const mine = (asking = new AbortController());
    running = design;
    try {
      const found = await evaluated(design, mine.signal);
      if (mine !== asking) return;
      const open = found.findings.some((f) => f.has_ways);
      figuresOf = design;
      set({ evaluation: found, problems: [], ways: open ? null : NO_WAYS });
      if (open)
        waysOut(design, mine.signal).then(
          (ways) => mine === asking && set({ ways }),
          () => mine === asking && !mine.signal.aborted && set({ ways: NO_WAYS }),
        );
      told(design);
    } catch (error) {
      if (mine !== asking || mine.signal.aborted) return;
      if (isPassing(error)) return failed(error);
      set({ problems: (error as ProblemError).problems });
      if (get().evaluation !== null || !stored || stored === design) return;
      const before = await evaluated(stored, mine.signal).catch(() => null); // figures from before rather than none
      if (before && mine === asking) set({ evaluation: before });
    } finally {
      if (mine === asking) running = null;
    }
  };

  return {
    refresh: () => {
      last = evaluate();
    },
    /** until the last evaluation that was begun is there */
    done: () => last,
    /** whether the figures of the document are on the screen or on their way */
    knows: (design: Design | null) => figuresOf === design || running === design,
    /** another document is opened */
    forget: () => {
      figuresOf = null;
    },
  };
}
