// Instruments that the server reaches, and what is asked of one as a job.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { ask, client, ProblemError, type Schemas } from "../api/client";
import { done } from "../api/jobs";
import { actions, useDesign } from "./store";

export type Instrument = Schemas["InstrumentOut"];
type Reach = Schemas["Reach"];
type Ask = Schemas["MeasureIn"];
type Measured = Schemas["Measured"];
type Wanted = Pick<Ask, "instrument" | "action"> & Partial<Ask>;

const USUAL = { what: "current", range_a: 1, rate_hz: 1000, seconds: 1, every_s: 60, name: "" } as const;

export const useInstruments = () =>
  useQuery<Reach, ProblemError>({ queryKey: ["instruments"], queryFn: () => ask(client.GET("/api/instruments")) });

/** What went wrong, in a sentence; nothing where it was given up. */
function said(error: Error | null): string | null {
  if (!error || error.name === "AbortError") return null;
  if (error instanceof TypeError) return "The server does not answer; try again.";
  if (!(error instanceof ProblemError) || !error.problems.length) return error.message;
  return `${error.message}: ${error.problems.map((p) => p.message).join("; ")}.`;
}

/** Something asked of an instrument as a job, and what it told. */
export function useMeasurement(onTold: (told: Measured) => void = () => undefined) {
  const variant = useDesign((s) => s.variant)!;
  const queries = useQueryClient();
  const ending = useRef(new AbortController());
  const [share, setShare] = useState(0);
  const measure = useMutation<Measured, Error, Wanted>({
    mutationFn: async (wanted) => {
      ending.current = new AbortController();
      setShare(0);
      await actions.saveNow(); // its limits are those of the design as it is
      const body = { ...USUAL, ...wanted, variant: variant.id };
      const job = await done(ask(client.POST("/api/jobs/measure", { body })), setShare, ending.current.signal);
      if (!job.measured) throw new Error(job.problem ? `It was not measured: ${job.problem}.` : "It was given up.");
      return job.measured;
    },
    onSuccess: async (told) => {
      await Promise.all([
        queries.invalidateQueries({ queryKey: ["instruments"] }),
        queries.invalidateQueries({ queryKey: ["traces", variant.id] }),
      ]);
      onTold(told);
    },
  });
  return { measure, share, wrong: said(measure.error), giveUp: () => ending.current.abort() };
}
