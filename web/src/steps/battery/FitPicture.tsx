// The fitted cell over what was measured: dots and a line for each discharge.
import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import type { Schemas } from "../../api/client";
import { Along, besideLevels, Chart, Course, Levels, textWidth, tickCount, type Frame } from "../../ui/chart";
import { show } from "../../ui/format";
import { Picture } from "../../ui/picture";

type Curves = Schemas["FittedCell"]["curves"];

export function FitPicture({ curves }: { curves: Curves }) {
  return (
    <Picture
      words={["cut-off", "c-rate"]}
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
  const left = besideLevels(
    levels.map((v) => show(v, "V")),
    size,
  );
  const charge = scaleLinear(
    [0, Math.max(...curves.flatMap((c) => c.charge_ah))],
    [left, width - textWidth("000 mAh", size) / 2 - 4],
  );
  const marks = charge.ticks(tickCount(width - left, textWidth("000 mAh", size), 6));
  return (
    <>
      <Levels ticks={levels} scale={volts} named={(v) => show(v, "V")} left={left} right={width} size={size} />
      <Along
        ticks={marks}
        scale={charge}
        named={(q) => (q === 0 ? "0" : show(q, "Ah"))}
        y={height - 8 * em}
        size={size}
        right={width}
      />
      {curves.map((c) => {
        const points = c.charge_ah.map((_, i) => i);
        const path = line<number>(
          (i) => charge(c.charge_ah[i] ?? 0),
          (i) => volts(c.fitted_v[i] ?? 0),
        )(points);
        return (
          <g key={c.current_a}>
            <Course d={path} />
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
