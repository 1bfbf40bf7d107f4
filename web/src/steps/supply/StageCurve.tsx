// A converter's efficiency over its output current, with the gadget's modes on the curve.
import { scaleLinear, scaleLog } from "d3-scale";
import { line } from "d3-shape";
import { useOpenDesign } from "../../design/store";
import type { Evaluation } from "../../design/types";
import { show } from "../../ui/format";
import { Along, besideLevels, Levels, Chart, textWidth, tickCount, type Frame } from "../../ui/chart";
import { Picture } from "../../ui/picture";

type Curve = Evaluation["supply"]["curves"][number];

const DASHES = ["", "5 3", "1.5 3"];

export function StageCurve({ curve, name }: { curve: Curve; name: string }) {
  const { modes } = useOpenDesign();
  const nameOf = (id: string) => modes.find((m) => m.id === id)?.name ?? id;
  return (
    <Picture
      words={["efficiency", "quiescent-current"]}
      name={`efficiency ${name}`}
      title="Efficiency over output current"
      label={`Efficiency of ${name} over its output current, with the modes marked`}
      table={{
        head: ["mode", "mean output [A]", "efficiency", "share of its loss"],
        rows: curve.marks.map((m) => [nameOf(m.mode), m.current_a, m.efficiency, m.share_of_loss]),
      }}
    >
      <Chart tall={190}>{(frame) => <Drawing frame={frame} curve={curve} nameOf={nameOf} />}</Chart>
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

type DrawingProps = { frame: Frame; curve: Curve; nameOf: (id: string) => string };

function Drawing({ frame: { width, em }, curve, nameOf }: DrawingProps) {
  const size = 10.5 * em;
  const currents = curve.lines.flatMap((l) => l.current_a);
  const left = besideLevels([show(1, "share")], size);
  const [right, bottom] = [width - 8 * em, 162 * em];
  const x = scaleLog([Math.min(...currents), Math.max(...currents)], [left, right]);
  const y = scaleLinear([0, 1], [bottom, 10 * em]);
  const path = line<number>();
  const decades = x.ticks(5).filter((t) => /^1e/.test(t.toExponential(0)));
  const every = Math.ceil(decades.length / tickCount(right - left, textWidth("100 mA", size), 6));
  const ticks = decades.filter((_, i) => i % every === 0);
  return (
    <>
      <Levels
        ticks={[0, 0.25, 0.5, 0.75, 1]}
        scale={y}
        named={(t) => show(t, "share")}
        left={left}
        right={right}
        size={size}
      />
      <Along
        ticks={ticks}
        scale={x}
        named={(t) => show(t, "A")}
        y={bottom + 16 * em}
        size={size}
        right={width}
        centred
      />
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
    </>
  );
}
