// The one number formatter of the interface: three significant digits, prefixes, times in people's units.
// It only draws figures; it makes none. Sentences come formatted from the core, by the same rules.

const PREFIXES: [number, string][] = [
  [1e6, "M"],
  [1e3, "k"],
  [1, ""],
  [1e-3, "m"],
  [1e-6, "µ"],
  [1e-9, "n"],
  [1e-12, "p"],
];
const FROM_KG = 9999.95; // in grams
const PREFIXED = new Set(["A", "V", "W", "Ω", "Ah", "Wh", "F"]);
const MOST_DAYS = 366; // whole ones are told as days up to there
const TIMES: [number, number, string][] = [
  [2 * 31557600, 31557600, "years"],
  [3 * 2629800, 2629800, "months"],
  [2 * 86400, 86400, "days"],
  [3600, 3600, "h"],
  [60, 60, "min"],
];

/** A number as it is read: with a minus, not a hyphen. */
const signed = (text: string): string => text.replace("-", "\u2212");

function digits(value: number): string {
  if (value === 0) return "0";
  const places = Math.max(0, 2 - Math.floor(Math.log10(Math.abs(value)) + 1e-9));
  const text = value.toFixed(Math.min(places, 12));
  return signed(text.includes(".") ? text.replace(/\.?0+$/, "") : text);
}

/** A value and its unit apart, for setting the unit smaller. */
export function parts(value: number | null | undefined, unit: string): [string, string] {
  if (value === null || value === undefined || !Number.isFinite(value)) return ["—", ""];
  if (unit === "s" || unit === "h") {
    const seconds = Math.abs(unit === "h" ? value * 3600 : value);
    if (value < 0) {
      const [size, name] = parts(seconds, "s");
      return [signed(`-${size}`), name];
    }
    const days = Math.round(seconds / 86400);
    if (days >= 2 && days <= MOST_DAYS && Math.abs(seconds / 86400 - days) < 1e-6) return [String(days), "days"];
    const span = TIMES.find(([from]) => seconds >= from);
    if (span) return [digits(seconds / span[1]), span[2]];
    return seconds !== 0 && seconds < 1 ? [digits(seconds * 1000), "ms"] : [digits(seconds), "s"];
  }
  if (unit === "share") return parts(value * 100, "%");
  if (unit === "%" && value > 0 && value < 0.05) return ["<\u00a00.1", "%"];
  if (unit === "%" && value >= 99.5 && value < 100) return [">\u00a099", "%"];
  if (unit === "%")
    return [
      signed(
        Math.abs(value) >= 9.95 || Math.abs(value - Math.round(value)) < 1e-9
          ? value.toFixed(0)
          : value.toFixed(1).replace(/\.0$/, ""),
      ),
      "%",
    ];
  if (unit === "g" && Math.abs(value) >= FROM_KG) return [digits(value / 1000), "kg"];
  if (["mm", "g", "°C", "°C/W"].includes(unit)) return [signed(String(Number(value.toFixed(1)))), unit];
  if (/^[A-Z]{3}$/.test(unit)) return [value.toFixed(2), unit];
  if (!PREFIXED.has(unit)) return [digits(value), unit];
  const found = PREFIXES.find(([scale]) => Math.abs(value) >= scale * 0.9995);
  if (value === 0) return ["0", unit];
  return found
    ? [digits(value / found[0]), found[1] + unit]
    : [signed(String(Number((value / 1e-12).toPrecision(2)))), `p${unit}`];
}

/** Number and unit are never broken apart at the end of a line. */
export function show(value: number | null | undefined, unit: string): string {
  return parts(value, unit).join("\u00a0").trim();
}

const AXES: [number, number, string][] = [
  [3 * 8766, 8766, "years"],
  [3 * 730.5, 730.5, "months"],
  [72, 24, "days"],
  [0, 1, "h"],
];

/** The unit for an axis of times up to so many hours: its size in hours and its name. */
export function timeAxis(hours: number): [number, string] {
  const [, size, unit] = AXES.find(([from]) => hours >= from) ?? AXES.at(-1)!;
  return [size, unit];
}

/** An hour of the day as people read it: 19.5 is 19:30. */
export function clock(hour: number): string {
  const minutes = Math.round(hour * 60) % 1440;
  return `${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
}

/** A quantity the way it is edited: all its digits, with a unit that the parser takes. */
export function editable(value: number | null | undefined, unit: string): string {
  if (value === null || value === undefined) return "";
  const exact = (n: number) => String(Number(n.toPrecision(10)));
  if (unit === "share") return `${exact(value * 100)} %`;
  if (unit === "clock") return clock(value);
  if (unit === "s" || unit === "h") {
    const seconds = unit === "h" ? value * 3600 : value;
    for (const [size, name] of [
      [86400, "days"],
      [3600, "h"],
      [60, "min"],
    ] as const)
      if (seconds >= size && Number((seconds / size).toPrecision(6)) * size === seconds)
        return `${exact(seconds / size)} ${name}`;
    return `${exact(seconds)} s`;
  }
  if (PREFIXED.has(unit) && value !== 0) {
    const usual = unit === "V" ? PREFIXES.slice(2) : PREFIXES; // nobody writes kilovolts here
    const found = usual.find(([scale]) => Math.abs(value) >= scale * 0.9995) ?? PREFIXES.at(-1)!;
    return `${exact(value / found[0])} ${found[1]}${unit}`;
  }
  return unit ? `${exact(value)} ${unit}` : exact(value);
}

/** A range in brackets: "5.6 to 8.5 days" with the unit once where both share it. */
export function range(low: number | null, high: number | null, unit: string): string {
  if (low === null || high === null || show(low, unit) === show(high, unit)) return "";
  const [a, ua] = parts(low, unit);
  const [b, ub] = parts(high, unit);
  return ua === ub ? `${a} to ${b}\u00a0${ub}`.trim() : `${a}\u00a0${ua} to ${b}\u00a0${ub}`;
}

export const date = (iso: string): string =>
  new Date(iso).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" });

export const count = (n: number, thing: string): string => `${n} ${thing}${n === 1 ? "" : "s"}`;
