// Pictures of a comparison: the falls of the batteries over each other, and any two of the verdicts against each other.
import { scaleLinear, scaleLog } from "d3-scale";
import { line } from "d3-shape";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { Along, apart, besideLevels, Chart, Levels, textWidth, tickCount } from "../ui/chart";
import { Choice, Section } from "../ui/controls";
import { show } from "../ui/format";
import { Picture } from "../ui/picture";

type Compared = Schemas["ComparedDesign"];
type Verdicts = Schemas["Comparison"]["verdicts"];

// told apart by colour and by dashes
const COLOURS = ["var(--ember)", "var(--watch)", "var(--pass)", "var(--fail)", "var(--ink)", "var(--soft)"];
const DASHES = [undefined, "7 3", "2 3", "9 3 2 3", "4 2", "1 4"];
const FAR = 30; // times as long: then along a logarithm
const LEAST_SHARE = 1e-3;

/** Charge over time, each named at its end. */
export function Falls({ designs }: { designs: readonly Compared[] }) {
  const drawn = designs.filter((d) => d.time_h.length > 1);
  if (!drawn.length) return <p className="text-soft">None of them has a runtime.</p>;
  const ends = drawn.map((d) => d.time_h.at(-1)!);
  const [least, most] = [Math.min(...ends), Math.max(...ends)];
  const far = most > FAR * least;
  return (
    <Picture
      words={["state-of-charge"]}
      name="falls"
      label={`Charge over time: ${drawn.map((d, i) => `${d.name} until ${show(ends[i], "h")}`).join(", ")}`}
      table={{
        head: ["design", "time [h]", "charge"],
        rows: drawn.flatMap((d) => d.time_h.map((t, i) => [d.name, t, d.charge[i]!])),
      }}
    >
      <Chart tall={220}>
        {({ width, em }) => {
          const size = 11.5 * em;
          const [high, low] = [26 * em, 180 * em];
          const y = scaleLinear([0, 1], [low, high]);
          const levels = [0, 0.25, 0.5, 0.75, 1];
          const named = (v: number) => show(v * 100, "%");
          const left = besideLevels(levels.map(named), size);
          const right = width - 12 * em;
          const x = far
            ? scaleLog([most * LEAST_SHARE, most], [left, right]).clamp(true)
            : scaleLinear([0, most], [left, right]);
          const ticks = x.ticks(tickCount(right - left, textWidth(show(most, "h"), size) * 1.5, 7));
          const shown = far ? ticks.filter((t) => Number.isInteger(Math.round(Math.log10(t) * 1e6) / 1e6)) : ticks;
          const widths = drawn.map((d) => textWidth(d.name, size));
          const places = apart(
            ends.map((t) => x(t)),
            widths,
            left,
            right,
          );
          return (
            <>
              <Levels ticks={levels} scale={y} named={named} left={left} right={right} size={size} />
              {drawn.map((d, k) => {
                const path = line<number>(
                  (i) => x(far ? Math.max(d.time_h[i]!, most * LEAST_SHARE) : d.time_h[i]!),
                  (i) => y(d.charge[i]!),
                )(d.time_h.map((_, i) => i));
                const at = places[k]!;
                return (
                  <g key={d.name}>
                    <path
                      d={path ?? ""}
                      fill="none"
                      stroke={COLOURS[k % COLOURS.length]}
                      strokeWidth={2}
                      strokeDasharray={DASHES[k % DASHES.length]}
                    />
                    <line
                      x1={x(ends[k]!)}
                      x2={x(ends[k]!)}
                      y1={high - 4 * em}
                      y2={low}
                      stroke={COLOURS[k % COLOURS.length]}
                      strokeWidth={0.8}
                    />
                    <text x={at} y={high - 10 * em} textAnchor="middle" fontSize={size} fill="var(--ink)">
                      {d.name}
                    </text>
                  </g>
                );
              })}
              <Along
                ticks={shown}
                scale={x}
                named={(t) => show(t, "h")}
                y={low + 18 * em}
                size={size}
                right={right}
                centred
              />
            </>
          );
        }}
      </Chart>
    </Picture>
  );
}

/** Two verdicts that the reader picks, a point for each design. */
export function TwoAxes({ designs, verdicts }: { designs: readonly Compared[]; verdicts: Verdicts }) {
  const usable = verdicts.filter((v) => v.figures.filter((f) => f.value !== null).length > 1);
  const [across, setAcross] = useState("mass");
  const [up, setUp] = useState("runtime");
  const pick = (key: string, other: number) => usable.find((v) => v.key === key) ?? usable[other];
  const [a, b] = [pick(across, 1), pick(up, 0)];
  if (!a || !b) return null;
  const points = designs.flatMap((d, i) => {
    const [x, y] = [a.figures[i]!.value, b.figures[i]!.value];
    return x === null || y === null ? [] : [{ name: d.name, x, y, k: i }];
  });
  const options = usable.map((v) => [v.key, v.label] as const);
  const unit = (v: Verdicts[number]) => v.figures.find((f) => f.value !== null)?.unit ?? "";
  return (
    <Section
      title="Two of them against each other"
      aside={
        <span className="flex gap-2 print:hidden">
          <Choice label="Upwards" bare value={b.key} options={options} onChange={setUp} />
          <Choice label="Across" bare value={a.key} options={options} onChange={setAcross} />
        </span>
      }
    >
      <Picture
        name="two-axes"
        label={`${b.label} over ${a.label}: ${points.map((p) => `${p.name} ${show(p.y, unit(b))} at ${show(p.x, unit(a))}`).join(", ")}`}
        table={{
          head: ["design", `${a.label} [${unit(a)}]`, `${b.label} [${unit(b)}]`],
          rows: points.map((p) => [p.name, p.x, p.y]),
        }}
      >
        <Chart tall={230}>
          {({ width, em }) => {
            const size = 11.5 * em;
            const [high, low] = [16 * em, 190 * em];
            const span = (values: number[]): [number, number] => {
              const [least, most] = [Math.min(...values), Math.max(...values)];
              const room = (most - least || Math.abs(most) || 1) * 0.15;
              return [least - room, most + room];
            };
            const y = scaleLinear(span(points.map((p) => p.y)), [low, high]);
            const levels = y.ticks(4);
            const left = besideLevels(
              levels.map((v) => show(v, unit(b))),
              size,
            );
            const right = width - 12 * em;
            const x = scaleLinear(span(points.map((p) => p.x)), [left, right]);
            const ticks = x.ticks(tickCount(right - left, textWidth(show(x.domain()[1], unit(a)), size) * 1.6, 6));
            return (
              <>
                <Levels
                  ticks={levels}
                  scale={y}
                  named={(v) => show(v, unit(b))}
                  left={left}
                  right={right}
                  size={size}
                />
                <Along
                  ticks={ticks}
                  scale={x}
                  named={(v) => show(v, unit(a))}
                  y={low + 18 * em}
                  size={size}
                  right={right}
                  centred
                />
                {points.map((p) => {
                  const before = x(p.x) > (left + right) / 2;
                  return (
                    <g key={p.name}>
                      <circle cx={x(p.x)} cy={y(p.y)} r={5 * em} fill={COLOURS[p.k % COLOURS.length]} />
                      <text
                        x={x(p.x) + (before ? -9 : 9) * em}
                        y={y(p.y) + size / 3}
                        textAnchor={before ? "end" : "start"}
                        fontSize={size}
                        fill="var(--ink)"
                      >
                        {p.name}
                      </text>
                    </g>
                  );
                })}
              </>
            );
          }}
        </Chart>
      </Picture>
    </Section>
  );
}
