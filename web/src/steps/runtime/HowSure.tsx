// How sure the runtime is: many samples of what is uncertain, and which figure to measure next.
import { ask, client, type Schemas } from "../../api/client";
import { useOpenDesign } from "../../design/store";
import { Answered, useAnswer } from "../../design/fields/answer";
import { Section } from "../../ui/controls";
import { FigureButton } from "../../design/fields/figure";
import { range, show } from "../../ui/format";
import { apart, Chart, textWidth, type Frame } from "../../ui/chart";
import { Picture } from "../../ui/picture";

export function HowSure() {
  const asking = useAnswer(["range"], (design, signal) =>
    ask(client.POST("/api/answers/range", { body: design, signal })),
  );
  return (
    <Answered
      asking={asking}
      waiting="Drawing a thousand gadgets"
      nothing="Add a part in Draw, and the range is worked out here."
    >
      {(answer) => (
        <div className="grid items-start gap-4 xl:grid-cols-2">
          <Section title="A thousand such gadgets">
            <dl className="mb-2 grid grid-cols-2 gap-x-4 gap-y-1">
              {[answer.low, answer.median, answer.high, ...(answer.meets.value === null ? [] : [answer.meets])].map(
                (f) => (
                  <div key={f.label}>
                    <dt className="text-soft text-sm">{f.label.toLowerCase()}</dt>
                    <dd className="font-display text-lg">
                      <FigureButton figure={f} />
                    </dd>
                  </div>
                ),
              )}
            </dl>
            <Bars answer={answer} />
            <p className="text-soft mt-1 text-sm">{answer.typical_sentence}</p>
          </Section>
          <Section title="What to measure next">
            <p className="mb-3">{answer.sentence}</p>
            <Owners owners={answer.owners} />
          </Section>
        </div>
      )}
    </Answered>
  );
}

function Bars({ answer }: { answer: Schemas["RangeAnswer"] }) {
  const goal = useOpenDesign().brief.goal_h ?? null;
  const { bars } = answer;
  const [from, to] = [bars[0]!.from_h, bars.at(-1)!.to_h];
  const low = answer.low.value ?? from;
  const high = answer.high.value ?? to;
  return (
    <Picture
      words={["p10-to-p90"]}
      name="range"
      label={`Runtimes of the samples: one in ten below ${show(low, "h")}, half below ${show(answer.median.value, "h")}, one in ten above ${show(high, "h")}`}
      table={{
        head: ["from [h]", "to [h]", "share of the samples"],
        rows: bars.map((b) => [b.from_h, b.to_h, b.share]),
      }}
    >
      <Chart tall={166}>{(frame) => <BarsDrawn frame={frame} answer={answer} goal={goal} />}</Chart>
      <p className="text-soft text-sm">
        {goal !== null && goal < from
          ? "All of them last longer than the goal."
          : goal !== null && goal > to
            ? "None of them lasts as long as the goal."
            : ""}{" "}
        The shaded middle holds eight of ten.
      </p>
    </Picture>
  );
}

type BarsProps = { frame: Frame; answer: Schemas["RangeAnswer"]; goal: number | null };

function BarsDrawn({ frame: { width, em }, answer, goal }: BarsProps) {
  const { bars } = answer;
  const [from, to] = [bars[0]!.from_h, bars.at(-1)!.to_h];
  const most = Math.max(...bars.map((b) => b.share), 1e-9);
  const x = (h: number) => 6 + ((h - from) / Math.max(to - from, 1e-9)) * (width - 12);
  const size = 11.5 * em;
  const base = 136 * em;
  const low = answer.low.value ?? from;
  const high = answer.high.value ?? to;
  const marks = [low, answer.median.value ?? low, high];
  const distinct = marks.filter((h, i) => i === 0 || show(h, "h") !== show(marks[i - 1], "h"));
  const widths = distinct.map((h) => textWidth(show(h, "h"), size));
  const middles = apart(distinct.map(x), widths, 0, width);
  const goalText = goal === null ? "" : `goal ${show(goal, "h")}`;
  const half = textWidth(goalText, size) / 2;
  return (
    <>
      <rect x={x(low)} width={Math.max(x(high) - x(low), 1)} y={20 * em} height={base - 20 * em} fill="var(--well)" />
      {bars.map((b) => (
        <rect
          key={b.from_h}
          x={x(b.from_h) + 0.5}
          width={Math.max(x(b.to_h) - x(b.from_h) - 1, 0.5)}
          y={base - (b.share / most) * 112 * em}
          height={(b.share / most) * 112 * em}
          fill="var(--ember)"
          opacity={b.to_h <= low || b.from_h >= high ? 0.45 : 0.85}
        />
      ))}
      {goal !== null && goal >= from && goal <= to && (
        <g>
          <line
            x1={x(goal)}
            x2={x(goal)}
            y1={16 * em}
            y2={base}
            stroke="var(--pass)"
            strokeWidth="1.500"
            strokeDasharray="2 3"
          />
          <text
            x={Math.min(Math.max(x(goal), half), width - half)}
            y={12 * em}
            textAnchor="middle"
            fontSize={size}
            fill="var(--pass)"
          >
            {goalText}
          </text>
        </g>
      )}
      {distinct.map((h, i) => (
        <g key={h}>
          <line x1={x(h)} x2={x(h)} y1={base} y2={base + 5 * em} stroke="var(--ink)" />
          <text x={middles[i]} y={base + 20 * em} textAnchor="middle" fontSize={size} fill="var(--soft)">
            {show(h, "h")}
          </text>
        </g>
      ))}
    </>
  );
}

function Owners({ owners }: { owners: Schemas["OwnerRow"][] }) {
  return (
    <table className="w-full text-[0.9375rem]">
      <thead className="text-soft text-sm">
        <tr>
          <th className="pb-1 text-left font-normal">Uncertain figure</th>
          <th className="pb-1 text-right font-normal">Of the range</th>
          <th className="pb-1 text-right font-normal">Range if it were known</th>
        </tr>
      </thead>
      <tbody>
        {owners
          .filter((o) => o.share >= 0.005)
          .slice(0, 8)
          .map((o) => (
            <tr key={`${o.kind} ${o.subject} ${o.state}`} className="border-line/60 border-t">
              <th scope="row" className="py-1.5 pr-2 text-left font-normal">
                {o.name}
                <div className="bg-well mt-1 h-1.5 rounded-full" aria-hidden>
                  <div className="bg-watch h-full rounded-full" style={{ width: `${o.share * 100}%` }} />
                </div>
              </th>
              <td className="text-right whitespace-nowrap">{show(o.share, "share")}</td>
              <td className="pl-3 text-right whitespace-nowrap">{range(o.known.low, o.known.high, "h")}</td>
            </tr>
          ))}
      </tbody>
    </table>
  );
}
