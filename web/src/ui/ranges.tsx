// Ranges beside each other: the middle and nine in ten of each, on an axis where a step is a factor.
import { scaleLog } from "d3-scale";
import { Chart } from "./chart";
import { show } from "./format";

type Range = { name: string; low: number; value: number; high: number; own: boolean; pale?: boolean };

const ROW = 25;

/** `own` is drawn in ember, what is `pale` does not count in full. `goal`: a line across, with its word. */
export function Ranges({
  label,
  ranges,
  unit,
  goal = null,
}: {
  label: string;
  ranges: readonly Range[];
  unit: string;
  goal?: number | null;
}) {
  if (!ranges.length) return null;
  const ends = ranges.flatMap((r) => [r.low, r.high]).concat(goal ?? []);
  return (
    <Chart tall={({ em }) => (ranges.length * ROW + (goal === null ? 0 : 22)) * em} least={420}>
      {({ width, height, em }) => {
        const left = Math.min(Math.max(195 * em, width / 4), 240 * em);
        const letters = Math.floor((left / em - 12) / 6.5);
        const x = scaleLog()
          .domain([Math.min(...ends) / 1.3, Math.max(...ends) * 1.3])
          .range([left, width - 70 * em]);
        return (
          <g
            role="img"
            aria-label={`${label}: ${ranges.map((r) => `${r.name} ${show(r.value, unit)}`).join(", ")}`}
            fontSize={12.5 * em}
          >
            {goal !== null && (
              <>
                <line
                  x1={x(goal)}
                  x2={x(goal)}
                  y1={4}
                  y2={height - 20 * em}
                  stroke="var(--soft)"
                  strokeDasharray="3 3"
                />
                <text x={x(goal)} y={height - 5 * em} textAnchor="middle" fill="var(--soft)">
                  goal {show(goal, unit)}
                </text>
              </>
            )}
            {ranges.map((r, i) => {
              const y = (i + 0.5) * ROW * em;
              return (
                <g key={r.name}>
                  <text x={left - 12 * em} y={y} dy="0.35em" textAnchor="end" fill="var(--ink)">
                    {r.name.length > letters ? `${r.name.slice(0, letters - 1)}…` : r.name}
                  </text>
                  <rect
                    x={x(r.low)}
                    width={Math.max(x(r.high) - x(r.low), 2)}
                    y={y - 5 * em}
                    height={10 * em}
                    rx={3}
                    fill={r.own ? "var(--ember)" : "var(--soft)"}
                    opacity={r.pale ? 0.3 : 0.75}
                  />
                  <line
                    x1={x(r.value)}
                    x2={x(r.value)}
                    y1={y - 8 * em}
                    y2={y + 8 * em}
                    stroke="var(--ink)"
                    strokeWidth={2}
                  />
                  <text
                    x={x(r.high) + 6 * em}
                    y={y}
                    dy="0.35em"
                    fill="var(--soft)"
                    stroke="var(--sheet)"
                    strokeWidth={3}
                    paintOrder="stroke"
                  >
                    {show(r.value, unit)}
                  </text>
                </g>
              );
            })}
          </g>
        );
      }}
    </Chart>
  );
}

/** A figure as a range; none where an end of it is not known, or is nothing. */
export function rangeOf(
  name: string,
  figure: { value: number | null; low?: number | null; high?: number | null } | null | undefined,
  own: boolean,
  pale = false,
): Range[] {
  const { low, value, high } = figure ?? { value: null };
  return low && value && high ? [{ name, low, value, high, own, pale }] : [];
}
