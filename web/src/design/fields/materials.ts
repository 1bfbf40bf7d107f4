// What a case may be made of, as one chooses it.
import type { Design } from "../types";

type Material = Design["enclosure"]["plastic"];
const ALL: readonly Material[] = [
  "PLA",
  "PETG",
  "ABS",
  "ASA",
  "nylon",
  "TPU",
  "resin",
  "polycarbonate",
  "wood",
  "aluminium",
  "steel",
];
export const MATERIALS = ALL.map((m) => [m, m] as const);
