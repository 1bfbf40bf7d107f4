// The fitted cell over what was measured: dots and a line for each discharge.
import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import type { Schemas } from "../../api/client";
import { Chart, textWidth, tickCount, type Frame } from "../../ui/chart";
import { show } from "../../ui/format";
import { Picture } from "../../ui/picture";

type Curves = Schemas["FittedCell"]["curves"];

export function FitPicture({ curves }: { curves: Curves }) {
  return (
    <Picture
      name="fit"
      title="Dots: measured. Line: the fitted cell."
      label={`Voltage over the charge taken at ${curves.map((c) => show(c.current_a, "A")).join(" and ")}: measured and fitted`}
      table={{
        head: ["current [A]", "charge taken [Ah]", "measured [V]", "fitted [V]"],
        rows: curves.flatMap((c) =>
          c.charge_ah.map((q, i) => [c.current_a, q, c.measured_v[i] ?? null, c.fitted_v[i] ?? null]),
        ),
      }}
    >
      <Chart tall={210}>{(frame) => <Drawing frame={frame} curves={curves} />}</Chart>
    </Picture>
  );
}

function Drawing({ frame: { width, height, em }, curves }: { frame: Frame; curves: Curves }) {
  const size = 12 * em;
  const all = curves.flatMap((c) => [...c.measured_v, ...c.fitted_v]);
  const bottom = height - 26 * em;
  const volts = scaleLinear([Math.min(...all), Math.max(...all)], [bottom, 10 * em]).nice(4);
  const levels = volts.ticks(4);
  const left = Math.max(...levels.map((v) => textWidth(show(v, "V"), size))) + 10;
  const charge = scaleLinear(
    [0, Math.max(...curves.flatMap((c) => c.charge_ah))],
    [left, width - textWidth("000 mAh", size) / 2 - 4],
  );
  const marks = charge.ticks(tickCount(width - left, textWidth("000 mAh", size), 6));
  const small = { fontSize: size, fill: "var(--soft)" };
  return (
    <>
      {levels.map((v) => (
        <g key={v}>
          <line x1={left} x2={width} y1={volts(v)} y2={volts(v)} stroke="var(--line)" strokeWidth="0.700" />
          <text x={left - 7} y={volts(v) + 4 * em} textAnchor="end" {...small}>
            {show(v, "V")}
          </text>
        </g>
      ))}
      {marks.map((q, i) => (
        <text key={q} x={charge(q)} y={height - 8 * em} textAnchor={i === 0 ? "start" : "middle"} {...small}>
          {q === 0 ? "0" : show(q, "Ah")}
        </text>
      ))}
      {curves.map((c) => {
        const points = c.charge_ah.map((_, i) => i);
        const path = line<number>(
          (i) => charge(c.charge_ah[i] ?? 0),
          (i) => volts(c.fitted_v[i] ?? 0),
        )(points);
        return (
          <g key={c.current_a}>
            <path d={path ?? ""} fill="none" stroke="var(--ember)" strokeWidth="2" />
            {points.map((i) => (
              <circle
                key={i}
                cx={charge(c.charge_ah[i] ?? 0)}
                cy={volts(c.measured_v[i] ?? 0)}
                r={2.2}
                fill="var(--ink)"
                opacity="0.55"
              />
            ))}
          </g>
        );
      })}
    </>
  );
}
