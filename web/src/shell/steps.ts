// The steps of the job in working order.
import type { StepKey } from "../design/types";

export const STEPS: readonly { key: StepKey; name: string }[] = [
  { key: "brief", name: "Brief" },
  { key: "draw", name: "Draw" },
  { key: "supply", name: "Supply" },
  { key: "battery", name: "Battery" },
  { key: "runtime", name: "Runtime" },
  { key: "fit", name: "Fit" },
  { key: "record", name: "Record" },
];
