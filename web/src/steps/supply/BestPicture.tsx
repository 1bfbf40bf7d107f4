// The best supplies in a picture: runtime over what counts.
import { scaleLinear, scaleLog } from "d3-scale";
import type { Schemas } from "../../api/client";
import { Along, besideLevels, Chart, Levels, tickCount, textWidth } from "../../ui/chart";
import { show, timeAxis } from "../../ui/format";
import { Picture } from "../../ui/picture";
import { AIMS, keyOf, REFILLS, valueOf, type Aim, type Row } from "./bestOf";

type FrontProps = {
  answer: Schemas["ChoiceAnswer"];
  /** what runs along the picture */
  axis: Aim;
  rows: readonly Row[];
  unit: string;
  goal: number | null;
  picked: string | null;
  onPick: (key: string) => void;
};

/** Runtime over what counts: each supply a point, the present one a ring. */
export function BestPicture({ answer, axis, rows, unit, goal, picked, onPick }: FrontProps) {
  const all = [...rows, answer.present];
  const hours = all.map((r) => Math.max(r.runtime.value ?? 0, 1e-3)).concat(goal ?? []);
  const values = all.map((r) => valueOf(r, axis));
  return (
    <Picture
      name="best supplies"
      label={`Runtime when coldest over ${AIMS[axis]}: ${rows.length} supplies`}
      table={{
        head: ["supply", "refilled", `runtime [h]`, `${AIMS[axis]} [${unit}]`],
        rows: all.map((r) => [
          [r.pack, r.charger, ...r.stages].filter(Boolean).join("; "),
          REFILLS[r.refill],
          r.runtime.value ?? null,
          valueOf(r, axis),
        ]),
      }}
    >
      <Chart tall={250}>
        {({ width, em }) => {
          const size = 11.5 * em;
          const [high, bottom] = [24 * em, 218 * em];
          const y = scaleLog([Math.min(...hours) / 1.4, Math.max(...hours) * 1.4], [bottom, high]);
          const [scale, time] = timeAxis(Math.max(...hours));
          const levels = thinned(
            y
              .copy()
              .domain(y.domain().map((h) => h / scale))
              .ticks(),
          );
          const left = besideLevels(levels.map(String), size);
          const right = width - 14 * em;
          const span = Math.max(...values) - Math.min(...values) || 1;
          const x = scaleLinear(
            [Math.min(...values) - span * 0.04, Math.max(...values) + span * 0.04],
            [left + 6, right],
          );
          const ticks = x.ticks(tickCount(right - left, textWidth(show(Math.max(...values), unit), size), 7));
          const mark = (r: Row) => ({ cx: x(valueOf(r, axis)), cy: y(Math.max(r.runtime.value ?? 0, 1e-3)) });
          return (
            <>
              <text x={2} y={12 * em} fontSize={size} fill="var(--soft)">
                {`runtime when coldest, in ${time}`}
              </text>
              <Levels ticks={levels} scale={(t) => y(t * scale)} named={String} left={left} right={right} size={size} />
              {goal !== null && (
                <>
                  <line x1={left} x2={right} y1={y(goal)} y2={y(goal)} stroke="var(--pass)" strokeDasharray="4 4" />
                  <text x={right} y={y(goal) - 4 * em} textAnchor="end" fontSize={size} fill="var(--pass)">
                    goal {show(goal, "h")}
                  </text>
                </>
              )}
              <Along
                ticks={ticks}
                scale={x}
                named={(t) => show(t, unit)}
                y={bottom + 16 * em}
                size={size}
                right={right}
                centred
              />
              {rows.map((r) => {
                const key = keyOf(r);
                return (
                  <circle
                    key={key}
                    {...mark(r)}
                    r={(key === picked ? 7 : 4.5) * em}
                    fill={key === picked ? "var(--ember)" : r.refill === "charged" ? "var(--ink)" : "var(--soft)"}
                    fillOpacity={r.refill === "thrown" ? 0.35 : 0.85}
                    className="cursor-pointer"
                    onClick={() => onPick(key)}
                  >
                    <title>{`${r.pack}: ${show(r.runtime.value, "h")}, ${show(valueOf(r, axis), unit)}`}</title>
                  </circle>
                );
              })}
              <circle {...mark(answer.present)} r={6 * em} fill="none" stroke="var(--ember)" strokeWidth={2.2} />
              <text
                {...{ x: mark(answer.present).cx + 9 * em, y: mark(answer.present).cy + 4 * em }}
                fontSize={size}
                fill="var(--ink)"
              >
                now
              </text>
            </>
          );
        }}
      </Chart>
      <p className="text-soft text-xs">
        Dark: charged inside. Grey: taken out to be charged, or a power bank. Pale: thrown away. The ring: as it stands.
      </p>
    </Picture>
  );
}

/** At most six of the steps of a logarithmic axis, evenly apart. */
const thinned = (ticks: number[]): number[] => ticks.filter((_, i) => i % Math.ceil(ticks.length / 6) === 0);
