// Where the average day's energy goes: parts solid, losses hatched, sorted by size.
import { useShown } from "../../design/store";
import { FigureButton } from "../../design/fields/figure";
import { show } from "../../ui/format";
import { Chart, fitted, textWidth } from "../../ui/chart";
import { Picture } from "../../ui/picture";

const ROW = 26;

export function EnergyPicture() {
  const shown = useShown();
  if (!shown) return null;
  const rows = shown.supply.energy.filter((e) => e.share >= 0.0005);
  const largest = rows[0]?.share ?? 1;
  return (
    <>
      <Picture
        words={["mode", "efficiency"]}
        name="energy"
        label="Mean power of every part and every loss over the average day"
        title="Mean power over the average day; hatched: lost on the way"
        table={{
          head: ["receiver", "kind", "mean power [W]", "share"],
          rows: shown.supply.energy.map((e) => [e.name, e.kind, e.power.value, e.share]),
        }}
      >
        <Chart tall={rows.length * ROW + 4}>
          {({ width, em }) => {
            const size = 13 * em;
            const figures = rows.map((e) => `${show(e.power.value, "W")}, ${show(e.share, "share")}`);
            const tail = Math.max(...figures.map((f) => textWidth(f, size))) + 10 * em;
            const names = Math.min(Math.max(...rows.map((e) => textWidth(e.name, size))), 0.45 * width) + 10 * em;
            const room = Math.max(width - names - tail, 20 * em);
            return (
              <>
                <defs>
                  <pattern id="lost" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
                    <rect width="6" height="6" fill="var(--well)" />
                    <rect width="2.500" height="6" fill="var(--ember)" />
                  </pattern>
                </defs>
                {rows.map((e, i) => {
                  const bar = Math.max(1.5, (e.share / largest) * room);
                  return (
                    <g key={`${e.kind} ${e.id}`} transform={`translate(0 ${i * ROW * em})`} fontSize={size}>
                      <text x={names - 10 * em} y={17 * em} textAnchor="end" fill="var(--ink)">
                        {fitted(e.name, names - 10 * em, size)}
                      </text>
                      <rect
                        x={names}
                        y={4 * em}
                        width={bar}
                        height={17 * em}
                        rx="3"
                        fill={e.kind === "part" ? "var(--ember)" : "url(#lost)"}
                        stroke="var(--ember)"
                      />
                      <text x={names + bar + 8 * em} y={17 * em} fill="var(--soft)">
                        {figures[i]}
                      </text>
                    </g>
                  );
                })}
              </>
            );
          }}
        </Chart>
      </Picture>
      <p className="text-soft mt-2 text-sm">
        Largest: {rows[0] && <FigureButton figure={rows[0].power} className="text-ink" />}
        {rows[0] && ` for ${rows[0].name}`}
      </p>
    </>
  );
}
