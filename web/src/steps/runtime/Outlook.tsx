// The runtime over temperature and over the years.
import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import { ask, client, type Schemas } from "../../api/client";
import { useOpenDesign } from "../../design/store";
import { Answered, useAnswer } from "../../design/fields/answer";
import { Section } from "../../ui/controls";
import { show, timeAxis } from "../../ui/format";
import { Along, besideLevels, Course, Levels, Chart, textWidth, tickCount, type Frame } from "../../ui/chart";
import { Picture } from "../../ui/picture";

type Point = Schemas["OutlookPoint"];

export function Outlook() {
  const { brief } = useOpenDesign();
  const asking = useAnswer(["outlook"], (design, signal) =>
    ask(client.POST("/api/answers/outlook", { body: design, signal })),
  );
  return (
    <Answered
      asking={asking}
      waiting="Trying cold, heat and years"
      nothing="Add a part in Draw, and its runtime is drawn here."
    >
      {(answer) => (
        <div className="grid items-start gap-4 xl:grid-cols-2">
          <Section title="Over temperature">
            <p className="text-soft mb-1">{answer.temperature_sentence}</p>
            <Curve
              name="runtime-over-temperature"
              points={answer.temperature}
              unit="°C"
              label={answer.temperature_sentence}
              goal={brief.goal_h ?? null}
              marked={[brief.coldest_c, brief.usual_c, brief.hottest_c]}
            />
          </Section>
          <Section title="Over the years">
            <p className="text-soft mb-1">
              {answer.age_sentence}{" "}
              {answer.goal_year !== null &&
                (answer.goal_year === answer.age[0]?.at
                  ? "It misses the goal from the start."
                  : `From year ${answer.goal_year} on it misses the goal.`)}
            </p>
            <Curve
              name="runtime-over-years"
              points={answer.age}
              unit="years"
              label={answer.age_sentence}
              goal={brief.goal_h ?? null}
              marked={[]}
            />
          </Section>
        </div>
      )}
    </Answered>
  );
}

type CurveProps = {
  name: string;
  points: Point[];
  unit: string;
  label: string;
  goal: number | null;
  marked: number[];
};

function Curve({ name, points, unit, label, goal, marked }: CurveProps) {
  return (
    <Picture
      name={name}
      label={label}
      table={{
        head: [`${unit === "°C" ? "temperature" : "age"} [${unit}]`, "runtime [h]", "full charges so far"],
        rows: points.map((p) => [p.at, p.hours, p.full_charges]),
      }}
    >
      <Chart tall={226}>
        {(frame) => <Drawing frame={frame} points={points} unit={unit} goal={goal} marked={marked} />}
      </Chart>
    </Picture>
  );
}

type DrawingProps = Pick<CurveProps, "points" | "unit" | "goal" | "marked"> & { frame: Frame };

function Drawing({ frame: { width, em }, points, unit, goal, marked }: DrawingProps) {
  const size = 11.5 * em;
  const top = Math.max(...points.map((p) => p.hours), 1e-6);
  const near = goal !== null && goal <= top * 1.5;
  const [high, bottom] = [26 * em, 196 * em];
  const y = scaleLinear([0, (near ? Math.max(top, goal) : top) * 1.08], [bottom, high]);
  const [scale, time] = timeAxis(y.domain()[1]!);
  const ticks = scaleLinear([0, y.domain()[1]! / scale], y.range()).ticks(4);
  const left = besideLevels(ticks.map(String), size) + 2;
  const right = width - 14 * em;
  const x = scaleLinear([points[0]!.at, points.at(-1)!.at], [left, right]);
  const named = (t: number) => (unit === "°C" ? show(t, "°C") : String(t));
  const small = { fontSize: size, fill: "var(--soft)" };
  const drawn = line<Point>(
    (p) => x(p.at),
    (p) => y(p.hours),
  )(points);
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
      <Along
        ticks={x.ticks(tickCount(right - left, textWidth(named(-30), size), 6))}
        scale={x}
        named={named}
        y={bottom + 18 * em}
        size={size}
        right={width}
        centred
      />
    </>
  );
}
