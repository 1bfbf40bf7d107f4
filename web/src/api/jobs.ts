// Work that takes longer than a request: looked at until it is done; giving it up tells the server.
import { ask, client, ProblemError, type Schemas } from "./client";

export type Job = Schemas["JobOut"];

const LOOK_EVERY_MS = 400;
/** So long the server may be away, as when it starts anew: the work goes on. */
const PATIENCE_MS = 90_000;

/** `begun` is asked without the signal: what is given up before it is known would go on all the same. */
export async function done(begun: Promise<Job>, told: (share: number) => void, signal: AbortSignal): Promise<Job> {
  let job = await begun;
  const path = { job: job.id };
  const giveUp = () => {
    client.DELETE("/api/jobs/{job}", { params: { path } }).catch(() => undefined);
  };
  if (signal.aborted) giveUp();
  signal.throwIfAborted();
  signal.addEventListener("abort", giveUp);
  try {
    let heard = Date.now();
    while (job.state === "waiting" || job.state === "running") {
      told(job.progress);
      await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
      try {
        job = await ask(client.GET("/api/jobs/{job}", { params: { path }, signal }));
        heard = Date.now();
      } catch (error) {
        if (signal.aborted || !isAway(error) || Date.now() - heard > PATIENCE_MS) throw error;
      }
    }
  } finally {
    signal.removeEventListener("abort", giveUp);
  }
  return job;
}

const isAway = (error: unknown) => !(error instanceof ProblemError) || error.status >= 500;
