// Which figures each kind of stage has, in the order in which they are shown.
import type { Stage } from "../../design/types";
import type { Dimension } from "../../ui/reading";

export type StageField = { key: string; label: string; dimension: Dimension; optional?: boolean };

const output: StageField = { key: "output_v", label: "Output voltage", dimension: "voltage" };
const quiescent: StageField = { key: "quiescent_a", label: "Quiescent current", dimension: "current" };
const resistance: StageField = { key: "resistance_ohm", label: "Resistance", dimension: "resistance" };
const forward: StageField = { key: "forward_v", label: "Voltage drop", dimension: "voltage" };

const reverse: StageField = { key: "reverse_a", label: "Lets through backwards, at most", dimension: "current" };
const MOST: StageField = { key: "input_max_v", label: "Max input", dimension: "voltage", optional: true };

const FIELDS: Record<Stage["type"], StageField[]> = {
  linear: [
    output,
    quiescent,
    { key: "dropout_v", label: "Dropout", dimension: "voltage" },
    { key: "dropout_at_a", label: "at a current of", dimension: "current" },
    { key: "ground_share", label: "Ground current, share of load", dimension: "share" },
    { key: "input_min_v", label: "Min input", dimension: "voltage", optional: true },
  ],
  switching: [
    output,
    quiescent,
    { key: "undervoltage_lockout_v", label: "Undervoltage lockout, falling", dimension: "voltage" },
    { key: "start_up_v", label: "Start-up voltage", dimension: "voltage", optional: true },
    { key: "input_limit_a", label: "Input current limit", dimension: "current", optional: true },
  ],
  pass: [resistance, { key: "leakage_a", label: "Leakage while on", dimension: "current" }],
  diode: [forward, resistance, quiescent, reverse],
  "power-or": [forward, resistance, quiescent, reverse],
  "charge-pump": [
    { key: "output_v", label: "Regulated to", dimension: "voltage", optional: true },
    { ...resistance, label: "Output resistance" },
    quiescent,
  ],
  "shunt-regulator": [{ ...output, label: "Clamps at" }, resistance],
};

const LIMITS: StageField[] = [
  { key: "limit_a", label: "Max output current", dimension: "current" },
  { key: "rth_ja_c_per_w", label: "RθJA, °C per watt", dimension: "thermal", optional: true },
  { key: "junction_max_c", label: "Max junction", dimension: "temperature" },
];

const OFF: StageField = { key: "shutdown_a", label: "Shutdown current", dimension: "current" };

const FULL_DUTY: StageField = { key: "dropout_v", label: "Dropout at its limit", dimension: "voltage", optional: true };

export const fieldsOf = (stage: Stage): StageField[] => [
  ...FIELDS[stage.type],
  ...(stage.type === "switching" && stage.topology === "buck" ? [FULL_DUTY] : []),
  MOST,
  ...(stage.enable ? [OFF] : []),
  ...(stage.type === "pass" ? LIMITS.slice(0, 1) : LIMITS),
];

/** A stage's figure by the name of its field; figures that are allowed to be missing are null. */
export const figureOf = (stage: Stage, key: string): number | null =>
  (stage as unknown as Record<string, number | null | undefined>)[key] ?? null;

export const setFigure = (stage: Stage, key: string, value: number | null): void => {
  (stage as unknown as Record<string, number | null>)[key] = value;
};

export const KIND_NAMES: Record<Stage["type"], string> = {
  linear: "linear regulator",
  switching: "switching converter",
  pass: "pass element",
  diode: "diode",
  "power-or": "power OR-ing: the higher input feeds",
  "charge-pump": "charge pump",
  "shunt-regulator": "shunt regulator",
};

export const ROLES = ["switch", "load switch", "protection", "fuse", "wire", "board input"] as const;
