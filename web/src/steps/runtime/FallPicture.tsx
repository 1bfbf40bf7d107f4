// Charge and terminal voltage over the time since full, with the moments at which modes give up.
import { scaleLinear } from "d3-scale";
import { area, line } from "d3-shape";
import { useShown } from "../../design/store";
import type { Evaluation } from "../../design/types";
import { show, timeAxis } from "../../ui/format";
import { Picture } from "../../ui/picture";

const WIDTH = 860;
const LEFT = 52;
const RIGHT = 12;
const CHARGE = { top: 14, bottom: 92 };
const VOLTAGE = { top: 116, bottom: 226 };
type Timeline = Evaluation["runtime"]["timeline"];

export function FallPicture() {
  const shown = useShown();
  if (!shown || shown.runtime.total.value === null)
    return <p className="text-soft">Add a part in Draw, and the fall of its battery is drawn here.</p>;
  const { timeline, goal_h } = shown.runtime;
  return (
    <Picture
      name="fall"
      label={`Charge and voltage over time. ${shown.runtime.sentence}`}
      table={{
        head: ["time [h]", "charge left", "voltage at the mean load [V]", "voltage in the worst moment [V]"],
        rows: timeline.time_h.map((t, i) => [
          t,
          timeline.charge[i] ?? null,
          timeline.mean_v[i] ?? null,
          timeline.worst_v[i] ?? null,
        ]),
      }}
    >
      <Drawing timeline={timeline} goal={goal_h} end={shown.runtime.total.value} />
    </Picture>
  );
}

function Drawing({ timeline, goal, end }: { timeline: Timeline; goal: number; end: number }) {
  const last = timeline.time_h.at(-1) ?? 1;
  const reach = goal <= last * 1.6 ? Math.max(last, goal * 1.03) : last;
  const [size, unit] = timeAxis(reach);
  const x = scaleLinear([0, reach / size], [LEFT, WIDTH - RIGHT]);
  const charge = scaleLinear([0, 1], [CHARGE.bottom, CHARGE.top]);
  const volts = [...timeline.mean_v, ...timeline.worst_v.filter((v) => v > timeline.cutoff_v * 0.7), timeline.cutoff_v];
  const voltage = scaleLinear([Math.min(...volts), Math.max(...volts)], [VOLTAGE.bottom, VOLTAGE.top]).nice(4);
  const points = timeline.time_h.map((_, i) => i);
  const at = (i: number) => x((timeline.time_h[i] ?? 0) / size);
  const clip = (v: number) => Math.max(voltage.domain()[0] ?? 0, v);
  const chargeArea = area<number>(at, CHARGE.bottom, (i) => charge(timeline.charge[i] ?? 0))(points) ?? "";
  const meanLine = line<number>(at, (i) => voltage(clip(timeline.mean_v[i] ?? 0)))(points) ?? "";
  const worstLine = line<number>(at, (i) => voltage(clip(timeline.worst_v[i] ?? 0)))(points) ?? "";
  const stops = [...timeline.modes].filter((m) => m.charge >= 0.005).sort((a, b) => a.time_h - b.time_h);
  const small = { fontSize: 12, fill: "var(--soft)" };
  return (
    <svg viewBox={`0 0 ${WIDTH} 264`} className="w-full" style={{ fontFamily: "inherit" }}>
      {x.ticks(8).map((t) => (
        <g key={t}>
          <line x1={x(t)} x2={x(t)} y1={CHARGE.top} y2={VOLTAGE.bottom} stroke="var(--line)" strokeWidth="0.700" />
          <text x={x(t)} y={VOLTAGE.bottom + 16} textAnchor="middle" {...small}>
            {t} {t === 0 ? unit : ""}
          </text>
        </g>
      ))}
      {[0, 0.5, 1].map((c) => (
        <text key={c} x={LEFT - 7} y={charge(c) + 4} textAnchor="end" {...small}>
          {c * 100} %
        </text>
      ))}
      {voltage.ticks(4).map((v) => (
        <g key={v}>
          <line x1={LEFT} x2={WIDTH - RIGHT} y1={voltage(v)} y2={voltage(v)} stroke="var(--line)" strokeWidth="0.700" />
          <text x={LEFT - 7} y={voltage(v) + 4} textAnchor="end" {...small}>
            {v} V
          </text>
        </g>
      ))}
      <path d={chargeArea} fill="var(--ember)" opacity="0.28" />
      <path d={chargeArea} fill="none" stroke="var(--ember)" strokeWidth="2" />
      <path d={meanLine} fill="none" stroke="var(--ember)" strokeWidth="2.200" />
      <path d={worstLine} fill="none" stroke="var(--ink)" strokeWidth="1.500" strokeDasharray="5 3" />
      <line
        x1={LEFT}
        x2={WIDTH - RIGHT}
        y1={voltage(timeline.cutoff_v)}
        y2={voltage(timeline.cutoff_v)}
        stroke="var(--fail)"
        strokeWidth="1.200"
      />
      <text x={LEFT + 5} y={voltage(timeline.cutoff_v) - 4} fontSize="12" fill="var(--fail)">
        cut-off
      </text>
      <text x={LEFT + 8} y={CHARGE.bottom - 8} {...small}>
        charge left
      </text>
      <g transform={`translate(${LEFT + 70} ${VOLTAGE.bottom + 35})`} {...small}>
        <line x1="0" x2="22" y1="-4" y2="-4" stroke="var(--ember)" strokeWidth="2.200" />
        <text x="28">battery voltage at the mean load</text>
        <line x1="250" x2="272" y1="-4" y2="-4" stroke="var(--ink)" strokeWidth="1.500" strokeDasharray="5 3" />
        <text x="278">in the worst moment</text>
      </g>
      {goal <= reach && (
        <g>
          <line
            x1={x(goal / size)}
            x2={x(goal / size)}
            y1={CHARGE.top - 8}
            y2={VOLTAGE.bottom}
            stroke="var(--pass)"
            strokeWidth="1.500"
            strokeDasharray="2 3"
          />
          <text x={x(goal / size) - 5} y={CHARGE.top - 2} textAnchor="end" fontSize="12" fill="var(--pass)">
            goal {show(goal, "h")}
          </text>
        </g>
      )}
      <line
        x1={x(end / size)}
        x2={x(end / size)}
        y1={CHARGE.top}
        y2={VOLTAGE.bottom}
        stroke="var(--ink)"
        strokeWidth="1.800"
      />
      {stops.map((m, i) => {
        const [px, py, label] = [x(m.time_h / size), charge(m.charge), CHARGE.top + 18 + i * 16];
        return (
          <g key={m.mode}>
            <path d={`M${px} ${py} V${label - 4} H${px - 6}`} fill="none" stroke="var(--soft)" strokeWidth="0.800" />
            <circle cx={px} cy={py} r="4" fill="var(--sheet)" stroke="var(--ink)" strokeWidth="1.500" />
            <text x={px - 9} y={label} textAnchor="end" fontSize="12" fill="var(--ink)">
              {m.name} stops
            </text>
          </g>
        );
      })}
    </svg>
  );
}
