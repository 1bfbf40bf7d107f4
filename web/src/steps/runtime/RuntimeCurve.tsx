// The runtime that is said, over something: a temperature, years, an interval.
import { scaleLinear, scaleLog } from "d3-scale";
import { line } from "d3-shape";
import { show, timeAxis } from "../../ui/format";
import { Along, besideLevels, Course, Levels, Chart, textWidth, tickCount, type Frame } from "../../ui/chart";
import { Picture } from "../../ui/picture";

export type CurvePoint = { at: number; hours: number; more?: number };
type Unit = "°C" | "years" | "s";
const KNEE = "from here on twice as long brings little";
const ALONG: Record<Unit, string> = { "°C": "temperature", years: "age", s: "interval" };

type CurveProps = {
  name: string;
  points: CurvePoint[];
  unit: Unit;
  label: string;
  goal: number | null;
  marked: number[];
  /** what the third column of the table is called */
  more?: string;
  /** a place along with its name */
  knee?: number | null;
};

export function RuntimeCurve({ name, points, unit, label, goal, marked, more, knee = null }: CurveProps) {
  return (
    <Picture
      words={["p10-to-p90"]}
      name={name}
      label={label}
      table={{
        head: [`${ALONG[unit]} [${unit}]`, "runtime [h]", ...(more ? [more] : [])],
        rows: points.map((p) => [p.at, p.hours, ...(more ? [p.more ?? null] : [])]),
      }}
    >
      <Chart tall={226}>
        {(frame) => <Drawing frame={frame} points={points} unit={unit} goal={goal} marked={marked} knee={knee} />}
      </Chart>
    </Picture>
  );
}

type DrawingProps = Pick<CurveProps, "points" | "unit" | "goal" | "marked"> & { frame: Frame; knee: number | null };

function Drawing({ frame: { width, em }, points, unit, goal, marked, knee }: DrawingProps) {
  const size = 11.5 * em;
  const top = Math.max(...points.map((p) => p.hours), 1e-6);
  const near = goal !== null && goal <= top * 1.5;
  const [high, bottom] = [26 * em, 196 * em];
  const y = scaleLinear([0, (near ? Math.max(top, goal) : top) * 1.08], [bottom, high]);
  const [scale, time] = timeAxis(y.domain()[1]!);
  const ticks = scaleLinear([0, y.domain()[1]! / scale], y.range()).ticks(4);
  const named = (t: number) => (unit === "years" ? String(t) : show(t, unit));
  const half = unit === "s" ? textWidth(named(points[0]!.at), size) / 2 + 4 * em : 0; // the first place's name is centred under it
  const left = Math.max(besideLevels(ticks.map(String), size) + 2, half);
  const right = width - 14 * em;
  const ends: [number, number] = [points[0]!.at, points.at(-1)!.at];
  const x = unit === "s" ? scaleLog(ends, [left, right]) : scaleLinear(ends, [left, right]);
  const many = tickCount(right - left, textWidth(named(unit === "s" ? ends[1] : -30), size), 6);
  const along = unit === "s" ? thinned(points, many, marked) : (x as ReturnType<typeof scaleLinear>).ticks(many);
  const small = { fontSize: size, fill: "var(--soft)" };
  const drawn = line<CurvePoint>(
    (p) => x(p.at),
    (p) => y(p.hours),
  )(points);
  const before = knee !== null && x(knee) + 5 * em + textWidth(KNEE, size) > right;
  const goalText = near ? `goal ${show(goal, "h")}` : "";
  return (
    <>
      <text x={2} y={12 * em} {...small}>
        {`runtime in ${time}`}
      </text>
      <text x={right} y={12 * em} textAnchor="end" {...small} fill="var(--pass)">
        {goalText}
      </text>
      <Levels ticks={ticks} scale={(t) => y(t * scale)} named={String} left={left} right={right} size={size} />
      {near && (
        <line
          x1={left}
          x2={right}
          y1={y(goal)}
          y2={y(goal)}
          stroke="var(--pass)"
          strokeDasharray="2 3"
          strokeWidth="1.500"
        />
      )}
      {knee !== null && (
        <g>
          <line x1={x(knee)} x2={x(knee)} y1={high} y2={bottom} stroke="var(--soft)" strokeDasharray="2 3" />
          <text
            x={x(knee) + (before ? -5 : 5) * em}
            y={bottom - 8 * em}
            textAnchor={before ? "end" : "start"}
            {...small}
          >
            {KNEE}
          </text>
        </g>
      )}
      <Course d={drawn} />
      {points.map((p) => (
        <circle
          key={p.at}
          cx={x(p.at)}
          cy={y(p.hours)}
          r={marked.includes(p.at) ? 4.5 : 2.5}
          fill={marked.includes(p.at) ? "var(--sheet)" : "var(--ember)"}
          stroke="var(--ember)"
          strokeWidth="1.800"
        />
      ))}
      <Along ticks={along} scale={x} named={named} y={bottom + 18 * em} size={size} right={width} centred />
    </>
  );
}

/** The places of some of the points, evenly, so that a marked one is among them. */
function thinned(points: CurvePoint[], many: number, marked: number[]): number[] {
  const every = Math.max(1, Math.ceil(points.length / Math.max(many, 2)));
  const first = Math.max(
    0,
    points.findIndex((p) => marked.includes(p.at)),
  );
  return points.filter((_, i) => (i - first) % every === 0).map((p) => p.at);
}
