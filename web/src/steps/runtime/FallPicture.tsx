// Charge and terminal voltage over the time since full, with the moments at which modes give up.
import { scaleLinear } from "d3-scale";
import { area, line } from "d3-shape";
import { useShown } from "../../design/store";
import type { Evaluation } from "../../design/types";
import { show, timeAxis } from "../../ui/format";
import { Along, besideLevels, Course, Levels, Chart, fitted, textWidth, tickCount, type Frame } from "../../ui/chart";
import { Picture } from "../../ui/picture";

type Timeline = Evaluation["runtime"]["timeline"];

export function FallPicture() {
  const shown = useShown();
  if (!shown || shown.runtime.total.value === null)
    return <p className="text-soft">Add a part in Draw, and the fall of its battery is drawn here.</p>;
  const { timeline, goal_h } = shown.runtime;
  return (
    <Picture
      words={["state-of-charge", "cut-off", "p10-to-p90"]}
      name="fall"
      label={`Charge and voltage over time. ${shown.runtime.sentence}`}
      table={{
        head: ["time [h]", "state of charge", "voltage at the mean load [V]", "voltage in the worst moment [V]"],
        rows: timeline.time_h.map((t, i) => [
          t,
          timeline.charge[i] ?? null,
          timeline.mean_v[i] ?? null,
          timeline.worst_v[i] ?? null,
        ]),
      }}
    >
      <Chart tall={({ width, em }) => (226 + (oneLine(width, em) ? 40 : 58)) * em}>
        {(frame) => (
          <Drawing frame={frame} timeline={timeline} goal={goal_h ?? null} end={shown.runtime.total.value ?? 0} />
        )}
      </Chart>
    </Picture>
  );
}

const MEAN = "battery voltage at the mean load";
const WORST = "in the worst moment";

/** Whether both names of the lines go beside each other. */
const oneLine = (width: number, em: number) =>
  textWidth(MEAN, 12 * em) + textWidth(WORST, 12 * em) + 130 * em <= width - 60 * em;

type DrawingProps = { frame: Frame; timeline: Timeline; goal: number | null; end: number };

function Drawing({ frame: { width, em }, timeline, goal, end }: DrawingProps) {
  const size = 12 * em;
  const last = Math.max(timeline.time_h.at(-1) ?? 1, 1e-6);
  const reach = goal !== null && goal <= last * 1.6 ? Math.max(last, goal * 1.03) : last;
  const [unit, unitName] = timeAxis(reach);
  const volts = [...timeline.mean_v, ...timeline.worst_v.filter((v) => v > timeline.cutoff_v * 0.7), timeline.cutoff_v];
  const [chargeTop, chargeBottom, top, bottom] = [22 * em, 100 * em, 124 * em, 226 * em];
  const voltage = scaleLinear([Math.min(...volts), Math.max(...volts)], [bottom, top]).nice(4);
  const voltTicks = voltage.ticks(4);
  const left = besideLevels([...voltTicks.map((v) => show(v, "V")), show(1, "share")], size);
  const right = width - 12 * em;
  const x = scaleLinear([0, reach / unit], [left, right]);
  const ticks = x.ticks(tickCount(right - left, textWidth(`000 ${unitName}`, size), 8));
  const charge = scaleLinear([0, 1], [chargeBottom, chargeTop]);
  const points = timeline.time_h.map((_, i) => i);
  const at = (i: number) => x((timeline.time_h[i] ?? 0) / unit);
  const clip = (v: number) => Math.max(voltage.domain()[0] ?? 0, v);
  const chargeArea = area<number>(at, chargeBottom, (i) => charge(timeline.charge[i] ?? 0))(points) ?? "";
  const meanLine = line<number>(at, (i) => voltage(clip(timeline.mean_v[i] ?? 0)))(points) ?? "";
  const worstLine = line<number>(at, (i) => voltage(clip(timeline.worst_v[i] ?? 0)))(points) ?? "";
  const stops = [...timeline.modes]
    .filter((m) => m.charge >= 0.005)
    .sort((a, b) => a.time_h - b.time_h)
    .slice(0, 3); // what gives up later stands in the table
  const small = { fontSize: size, fill: "var(--soft)" };
  const goalText = goal === null ? "" : `goal ${show(goal, "h")}`;
  const goalAt = goal === null ? 0 : x(goal / unit);
  const goalRight = goalAt - 5 * em - textWidth(goalText, size) < left;
  return (
    <>
      <Along
        ticks={ticks}
        scale={x}
        named={(t, i) => (i === 0 ? `${t} ${unitName}` : String(t))}
        y={bottom + 17 * em}
        size={size}
        right={right + 10 * em}
        lines={[chargeTop, bottom]}
      />
      <Levels
        ticks={[0, 0.5, 1]}
        scale={charge}
        named={(c) => show(c, "share")}
        left={left}
        right={right}
        size={size}
        bare
      />
      <Levels ticks={voltTicks} scale={voltage} named={(v) => show(v, "V")} left={left} right={right} size={size} />
      <path d={chargeArea} fill="var(--ember)" opacity="0.28" />
      <Course d={chargeArea} />
      <Course d={meanLine} />
      <Course d={worstLine} dashed />
      <line
        x1={left}
        x2={right}
        y1={voltage(timeline.cutoff_v)}
        y2={voltage(timeline.cutoff_v)}
        stroke="var(--fail)"
        strokeWidth="1.200"
      />
      <text x={left + 5} y={voltage(timeline.cutoff_v) - 4 * em} fontSize={size} fill="var(--fail)">
        cut-off
      </text>
      <text x={left + 8} y={chargeBottom - 8 * em} {...small}>
        state of charge
      </text>
      <Names left={left} y={bottom + 37 * em} em={em} beside={oneLine(width, em)} />
      {goal !== null && goal <= reach && (
        <g>
          <line
            x1={goalAt}
            x2={goalAt}
            y1={chargeTop - 8 * em}
            y2={bottom}
            stroke="var(--pass)"
            strokeWidth="1.500"
            strokeDasharray="2 3"
          />
          <text
            x={goalAt + (goalRight ? 5 : -5) * em}
            y={chargeTop - 8 * em}
            textAnchor={goalRight ? "start" : "end"}
            fontSize={size}
            fill="var(--pass)"
          >
            {goalText}
          </text>
        </g>
      )}
      <line x1={x(end / unit)} x2={x(end / unit)} y1={chargeTop} y2={bottom} stroke="var(--ink)" strokeWidth="1.800" />
      {stops.map((m, i) => {
        const [px, py, label] = [x(m.time_h / unit), charge(m.charge), chargeTop + (14 + i * 16) * em];
        const before = px - 9 * em - left > textWidth(`${m.name} stops`, size);
        const room = before ? px - 9 * em - left : right - px - 9 * em;
        return (
          <g key={m.mode}>
            <path
              d={`M${px} ${py} V${label - 4 * em} H${px + (before ? -6 : 6) * em}`}
              fill="none"
              stroke="var(--soft)"
              strokeWidth="0.800"
            />
            <circle cx={px} cy={py} r="4" fill="var(--sheet)" stroke="var(--ink)" strokeWidth="1.500" />
            <text
              x={px + (before ? -9 : 9) * em}
              y={label}
              textAnchor={before ? "end" : "start"}
              fontSize={size}
              fill="var(--ink)"
              stroke="var(--sheet)"
              strokeWidth="3"
              paintOrder="stroke"
            >
              {fitted(`${m.name} stops`, room, size)}
            </text>
          </g>
        );
      })}
    </>
  );
}

/** What the two lines are, beside or below each other. */
function Names({ left, y, em, beside }: { left: number; y: number; em: number; beside: boolean }) {
  const size = 12 * em;
  const second = beside ? textWidth(MEAN, size) + 60 * em : 0;
  return (
    <g transform={`translate(${left} ${y})`} fontSize={size} fill="var(--soft)">
      <line x1="0" x2={22 * em} y1={-4 * em} y2={-4 * em} stroke="var(--ember)" strokeWidth="2.200" />
      <text x={28 * em}>{MEAN}</text>
      <g transform={`translate(${second} ${beside ? 0 : 18 * em})`}>
        <line
          x1="0"
          x2={22 * em}
          y1={-4 * em}
          y2={-4 * em}
          stroke="var(--ink)"
          strokeWidth="1.500"
          strokeDasharray="5 3"
        />
        <text x={28 * em}>{WORST}</text>
      </g>
    </g>
  );
}
