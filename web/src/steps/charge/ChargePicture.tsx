// A charge over time: the state of charge, current and voltage, and how warm it gets.
import { scaleLinear, type ScaleLinear } from "d3-scale";
import { area, line } from "d3-shape";
import type { Schemas } from "../../api/client";
import { Along, besideLevels, Chart, Course, Levels, textWidth, tickCount, type Frame } from "../../ui/chart";
import { show, timeAxis } from "../../ui/format";
import { Picture } from "../../ui/picture";

type Answer = Schemas["ChargeAnswer"];
type Course = Answer["course"];

export function ChargePicture({ answer }: { answer: Answer }) {
  const { course } = answer;
  return (
    <Picture
      words={["constant-current", "termination"]}
      name="charge"
      label={`A charge over time: ${answer.seconds === null ? answer.why : `full after ${show(answer.seconds / 3600, "h")}`}`}
      table={{
        head: [
          "time [h]",
          "state of charge",
          "charge current [A]",
          "voltage [V]",
          "air inside [°C]",
          "charger's junction [°C]",
        ],
        rows: course.time_s.map((t, i) => [
          t / 3600,
          course.charge[i] ?? null,
          course.current_a[i] ?? null,
          course.voltage_v[i] ?? null,
          course.inside_c[i] ?? null,
          course.junction_c[i] ?? null,
        ]),
      }}
    >
      <Chart tall={336} least={340}>
        {(frame) => <Drawing frame={frame} course={course} most={answer.most_s} />}
      </Chart>
    </Picture>
  );
}

function Drawing({ frame: { width, em }, course, most }: { frame: Frame; course: Course; most: number | null }) {
  const size = 12 * em;
  const last = (course.time_s.at(-1) ?? 1) / 3600 || 1e-6;
  const [unit, unitName] = timeAxis(last);
  const rows: [number, number][] = [
    [22 * em, 92 * em],
    [112 * em, 202 * em],
    [222 * em, 292 * em],
  ];
  const scale = (values: number[], row: number, zero = false) => {
    const [low, high] = [Math.min(...values, zero ? 0 : Infinity), Math.max(...values)];
    return scaleLinear([low, Math.max(high, low + 1e-6)], [rows[row]![1], rows[row]![0]]).nice(3);
  };
  const charge = scaleLinear([0, 1], [rows[0]![1], rows[0]![0]]);
  const amps = scale(course.current_a, 1, true);
  const volts = scale(course.voltage_v, 1);
  const degrees = scale([...course.inside_c, ...course.junction_c], 2);
  const labels = (s: ScaleLinear<number, number>, of: string, count = 3) => s.ticks(count).map((t) => show(t, of));
  const left = besideLevels([...labels(amps, "A"), ...labels(degrees, "°C"), show(1, "share")], size);
  const right = width - besideLevels(labels(volts, "V"), size) - 2;
  const x = scaleLinear([0, last / unit], [left, right]);
  const at = (i: number) => x((course.time_s[i] ?? 0) / 3600 / unit);
  const points = course.time_s.map((_, i) => i);
  const drawn = (s: ScaleLinear<number, number>, values: number[]) =>
    line<number>(at, (i) => s(values[i] ?? 0))(points) ?? "";
  const filled = area<number>(at, rows[0]![1], (i) => charge(course.charge[i] ?? 0))(points) ?? "";
  const small = { fontSize: size, fill: "var(--soft)" };
  const bottom = rows[2]![1];
  const mark = most === null ? null : x(most / 3600 / unit);
  return (
    <>
      <Along
        ticks={x.ticks(tickCount(right - left, textWidth(`000 ${unitName}`, size), 8))}
        scale={x}
        named={(t, i) => (i === 0 ? `${t} ${unitName}` : String(t))}
        y={bottom + 18 * em}
        size={size}
        right={width}
        lines={[rows[0]![0], bottom]}
      />
      {(
        [
          [charge, [0, 0.5, 1], "share"],
          [amps, amps.ticks(3), "A"],
          [degrees, degrees.ticks(3), "°C"],
        ] as const
      ).map(([s, ticks, of]) => (
        <Levels key={of} ticks={ticks} scale={s} named={(t) => show(t, of)} left={left} right={right} size={size} />
      ))}
      <Levels
        ticks={volts.ticks(3)}
        scale={volts}
        named={(t) => show(t, "V")}
        left={left}
        right={right}
        size={size}
        bare
        after
      />
      <path d={filled} fill="var(--ember)" opacity="0.28" />
      <Course d={drawn(charge, course.charge)} />
      <Course d={drawn(amps, course.current_a)} />
      <Course d={drawn(volts, course.voltage_v)} dashed />
      <Course d={drawn(degrees, course.inside_c)} />
      <Course d={drawn(degrees, course.junction_c)} dashed />
      {mark !== null && (
        <>
          <line
            x1={mark}
            x2={mark}
            y1={rows[0]![0]}
            y2={bottom}
            stroke="var(--ink)"
            strokeWidth="1"
            strokeDasharray="2 3"
          />
          <text x={mark} y={rows[0]![0] - 7 * em} textAnchor="middle" {...small}>
            80 %
          </text>
        </>
      )}
      {(["state of charge", "current, voltage (dashed)", "air inside, charger's junction (dashed)"] as const).map(
        (t, i) => (
          <text key={t} x={left} y={rows[i]![0] - 7 * em} {...small}>
            {t}
          </text>
        ),
      )}
    </>
  );
}
