// The steps of the job in working order.
import type { StepKey } from "./types";

export const STEPS: readonly { key: StepKey; name: string }[] = [
  { key: "brief", name: "Brief" },
  { key: "draw", name: "Draw" },
  { key: "supply", name: "Supply" },
  { key: "battery", name: "Battery" },
  { key: "charge", name: "Charge" },
  { key: "runtime", name: "Runtime" },
  { key: "fit", name: "Fit" },
  { key: "bench", name: "Bench" },
  { key: "record", name: "Record" },
];

const STEP_OF: Record<string, StepKey> = {
  parts: "draw",
  modes: "draw",
  supply: "supply",
  battery: "battery",
  charger: "charge",
  day: "runtime",
  enclosure: "fit",
  brief: "brief",
  name: "brief",
  summary: "brief",
  decisions: "record",
};

/** The step in which a place of the document is edited. */
export const stepOf = (path: string): StepKey | undefined =>
  path.endsWith("/body") || path.includes("/body/") ? "fit" : STEP_OF[path.split("/")[1] ?? ""];
