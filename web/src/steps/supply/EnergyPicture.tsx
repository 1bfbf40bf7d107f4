// Where the average day's energy goes: parts solid, losses hatched, sorted by size.
import { useShown } from "../../design/store";
import { FigureButton } from "../../ui/figure";
import { show } from "../../ui/format";
import { Picture } from "../../ui/picture";

const ROW = 26;

export function EnergyPicture() {
  const shown = useShown();
  if (!shown) return null;
  const rows = shown.supply.energy.filter((e) => e.share >= 0.0005);
  const largest = rows[0]?.share ?? 1;
  const height = rows.length * ROW;
  return (
    <>
      <Picture
        name="energy"
        label="Mean power of every part and every loss over the average day"
        title="Mean power over the average day; hatched: lost on the way"
        table={{
          head: ["receiver", "kind", "mean power [W]", "share"],
          rows: shown.supply.energy.map((e) => [e.name, e.kind, e.power.value, e.share]),
        }}
      >
        <svg viewBox={`0 0 760 ${height}`} className="w-full" style={{ fontFamily: "inherit" }}>
          <defs>
            <pattern id="lost" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
              <rect width="6" height="6" fill="var(--well)" />
              <rect width="2.500" height="6" fill="var(--ember)" />
            </pattern>
          </defs>
          {rows.map((e, i) => {
            const width = Math.max(1.5, (e.share / largest) * 360);
            return (
              <g key={`${e.kind} ${e.id}`} transform={`translate(0 ${i * ROW})`}>
                <text x="248" y="17" textAnchor="end" fontSize="13.500" fill="var(--ink)">
                  {e.name.length > 38 ? `${e.name.slice(0, 37)}…` : e.name}
                </text>
                <rect
                  x="258"
                  y="4"
                  width={width}
                  height="17"
                  rx="3"
                  fill={e.kind === "part" ? "var(--ember)" : "url(#lost)"}
                  stroke="var(--ember)"
                />
                <text x={266 + width} y="17" fontSize="13" fill="var(--soft)">
                  {show(e.power.value, "W")}, {show(e.share, "share")}
                </text>
              </g>
            );
          })}
        </svg>
      </Picture>
      <p className="text-soft mt-2 text-sm">
        Largest: {rows[0] && <FigureButton figure={rows[0].power} className="text-ink" />}
        {rows[0] && ` for ${rows[0].name}`}
      </p>
    </>
  );
}
