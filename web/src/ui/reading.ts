// Plain quantities ("120 mA", "-5 °C", "30 %") read in the browser, by the core's own table of units: at once, and without
// a connection. Whatever could mean something else, or is out of range, is null: that is for the core to judge.
import type { operations } from "../api/generated";
import table from "./units.generated.json";

export type Dimension = operations["answers_evaluation_read_quantity"]["parameters"]["query"]["dimension"];

type Kind = { base: string; units: Record<string, number>; least: number; most: number };
const KINDS = table as Record<Dimension, Kind>;

const PLAIN = /^([+-]?\d+(?:\.\d+)?)\s*([^\d\s][^\d]*)?$/;
const PERHAPS_THOUSANDS = /^[+-]?[1-9]\d{0,2}\.\d\d0$/; // "1.000": one, or a thousand?

export function readPlainly(text: string, dimension: Dimension): number | null {
  const kind = KINDS[dimension];
  const typed = text
    .replaceAll(/[\u00a0\u2009\u202f\u2007\s]+/g, " ")
    .replaceAll("\u2212", "-")
    .trim();
  const [, number, unit = ""] = PLAIN.exec(typed) ?? [];
  if (number === undefined || dimension === "clock" || PERHAPS_THOUSANDS.test(number)) return null;
  const factor = kind.units[unit.trim()];
  if (factor === undefined) return null;
  const zero = dimension === "temperature" && unit.includes("F") ? 32 : 0;
  const value = Number(((Number(number) - zero) * factor).toPrecision(12));
  if (value < kind.least || value > kind.most) return null;
  return dimension === "count" && !Number.isInteger(value) ? null : value;
}

/** The unit that figures of a dimension are kept in, as `editable` and `show` want it. */
export const keptIn = (dimension: Dimension): string =>
  dimension === "clock" || dimension === "share" ? dimension : dimension === "rate" ? "" : KINDS[dimension].base;
