// The runtime over temperature and over the years.
import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import { ask, client, type Schemas } from "../../api/client";
import { useOpenDesign } from "../../design/store";
import { Answered, useAnswer } from "../../ui/answer";
import { Section } from "../../ui/controls";
import { show, timeAxis } from "../../ui/format";
import { Picture } from "../../ui/picture";

type Point = Schemas["OutlookPoint"];
const [WIDTH, HEIGHT, LEFT, BOTTOM] = [430, 210, 52, 182];

export function Outlook() {
  const { brief } = useOpenDesign();
  const asking = useAnswer(["outlook"], (design, signal) =>
    ask(client.POST("/api/answers/outlook", { body: design as never, signal })),
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
              goal={brief.goal_h}
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
              goal={brief.goal_h}
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
  goal: number;
  marked: number[];
};

function Curve({ name, points, unit, label, goal, marked }: CurveProps) {
  const top = Math.max(...points.map((p) => p.hours), 1e-6);
  const near = goal <= top * 1.5;
  const x = scaleLinear([points[0]!.at, points.at(-1)!.at], [LEFT, WIDTH - 14]);
  const [size, time] = timeAxis(top);
  const y = scaleLinear([0, (near ? Math.max(top, goal) : top) * 1.08], [BOTTOM, 10]);
  const ticks = scaleLinear([0, y.domain()[1]! / size], y.range()).ticks(4);
  const small = { fontSize: 11.5, fill: "var(--soft)" };
  const drawn = line<Point>(
    (p) => x(p.at),
    (p) => y(p.hours),
  )(points);
  return (
    <Picture
      name={name}
      label={label}
      table={{
        head: [`${unit === "°C" ? "temperature" : "age"} [${unit}]`, "runtime [h]", "full charges so far"],
        rows: points.map((p) => [p.at, p.hours, p.full_charges]),
      }}
    >
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" style={{ fontFamily: "inherit" }}>
        {ticks.map((t) => (
          <g key={t}>
            <line
              x1={LEFT}
              x2={WIDTH - 14}
              y1={y(t * size)}
              y2={y(t * size)}
              stroke="var(--line)"
              strokeWidth="0.700"
            />
            <text x={LEFT - 7} y={y(t * size) + 4} textAnchor="end" {...small}>
              {t} {t === 0 ? "" : time}
            </text>
          </g>
        ))}
        {near && (
          <g>
            <line
              x1={LEFT}
              x2={WIDTH - 14}
              y1={y(goal)}
              y2={y(goal)}
              stroke="var(--pass)"
              strokeDasharray="2 3"
              strokeWidth="1.500"
            />
            <text x={WIDTH - 16} y={y(goal) - 4} textAnchor="end" fontSize="11.500" fill="var(--pass)">
              goal {show(goal, "h")}
            </text>
          </g>
        )}
        <path d={drawn ?? ""} fill="none" stroke="var(--ember)" strokeWidth="2.200" />
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
        {x.ticks(6).map((t) => (
          <text key={t} x={x(t)} y={BOTTOM + 17} textAnchor="middle" {...small}>
            {unit === "°C" ? show(t, "°C") : t}
          </text>
        ))}
      </svg>
    </Picture>
  );
}
