// A converter's efficiency over its output current, with the gadget's modes on the curve.
import { scaleLinear, scaleLog } from "d3-scale";
import { line } from "d3-shape";
import { useOpenDesign } from "../../design/store";
import type { Evaluation } from "../../design/types";
import { show } from "../../ui/format";
import { Picture } from "../../ui/picture";

type Curve = Evaluation["supply"]["curves"][number];

const WIDTH = 296;
const HEIGHT = 190;
const LEFT = 34;
const BOTTOM = 30;
const DASHES = ["", "5 3", "1.5 3"];

export function StageCurve({ curve, name }: { curve: Curve; name: string }) {
  const { modes } = useOpenDesign();
  const currents = curve.lines.flatMap((l) => l.current_a);
  const x = scaleLog([Math.min(...currents), Math.max(...currents)], [LEFT, WIDTH - 8]);
  const y = scaleLinear([0, 1], [HEIGHT - BOTTOM, 8]);
  const path = line<number>();
  const ticks = x.ticks(5).filter((t) => /^1e/.test(t.toExponential(0)));
  const nameOf = (id: string) => modes.find((m) => m.id === id)?.name ?? id;
  return (
    <Picture
      name={`efficiency ${name}`}
      title="Efficiency over output current"
      label={`Efficiency of ${name} over its output current, with the modes marked`}
      table={{
        head: ["mode", "mean output [A]", "efficiency", "share of its loss"],
        rows: curve.marks.map((m) => [nameOf(m.mode), m.current_a, m.efficiency, m.share_of_loss]),
      }}
    >
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" style={{ fontFamily: "inherit" }}>
        {[0, 0.25, 0.5, 0.75, 1].map((t) => (
          <g key={t}>
            <line x1={LEFT} x2={WIDTH - 8} y1={y(t)} y2={y(t)} stroke="var(--line)" />
            <text x={LEFT - 4} y={y(t) + 4} fontSize="10.500" textAnchor="end" fill="var(--soft)">
              {t * 100} %
            </text>
          </g>
        ))}
        {ticks.map((t) => (
          <text key={t} x={x(t)} y={HEIGHT - BOTTOM + 14} fontSize="10.500" textAnchor="middle" fill="var(--soft)">
            {show(t, "A")}
          </text>
        ))}
        {curve.lines.map((l, i) => (
          <path
            key={l.label}
            d={path.x((_, k) => x(l.current_a[k] ?? 1)).y((_, k) => y(l.efficiency[k] ?? 0))(l.current_a) ?? ""}
            fill="none"
            stroke="var(--ink)"
            strokeWidth="1.500"
            strokeDasharray={DASHES[i]}
          />
        ))}
        {curve.marks.map((m) => (
          <circle
            key={m.mode}
            cx={x(Math.max(m.current_a, x.domain()[0] ?? 1))}
            cy={y(m.efficiency)}
            r={3.5 + 5 * Math.sqrt(m.share_of_loss)}
            fill="var(--ember)"
            fillOpacity="0.75"
            stroke="var(--ink)"
          >
            <title>{`${nameOf(m.mode)}: ${show(m.efficiency, "share")} at ${show(m.current_a, "A")}`}</title>
          </circle>
        ))}
      </svg>
      <ul className="mt-1 text-xs">
        {curve.marks.map((m) => (
          <li key={m.mode} className="truncate">
            {nameOf(m.mode)}: {show(m.efficiency, "share")} at {show(m.current_a, "A")}
          </li>
        ))}
      </ul>
      <p className="text-soft mt-1 text-xs">
        {curve.lines
          .map((l, i) => `${["solid", "dashed", "dotted"][i]}: ${l.label} (${show(l.input_v, "V")})`)
          .join(", ")}
        ; the larger a dot, the more of this stage’s loss
      </p>
    </Picture>
  );
}
