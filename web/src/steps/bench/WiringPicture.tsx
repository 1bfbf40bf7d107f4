// The wires of one controller as a picture: its pins on the left, the parts on the right, a line for each signal.
import type { Schemas } from "../../api/client";
import { Chart, fitted, textWidth } from "../../ui/chart";
import { Picture } from "../../ui/picture";

type Host = Schemas["WiringOfHost"];

const ROW = 22;

export function WiringPicture({ host }: { host: Host }) {
  const wires = host.wires.filter((w) => w.signal in host.choices && w.pin !== null);
  const parts = [...new Set(wires.map((w) => w.part_name))];
  const ordered = parts.flatMap((part) => wires.filter((w) => w.part_name === part));
  return (
    <Picture
      name="wiring"
      label={`Wires between ${host.name} and ${parts.length} parts`}
      table={{ head: ["pin", "signal", "part"], rows: ordered.map((w) => [w.pin ?? "", w.name, w.part_name]) }}
    >
      <Chart tall={ROW * (ordered.length + parts.length) + 8}>
        {({ width, em }) => {
          const [size, row] = [12 * em, ROW * em];
          const pinWidth = Math.max(...ordered.map((w) => textWidth(w.pin ?? "", size))) + 18 * em;
          const right = Math.min(width * 0.55, pinWidth + 190 * em);
          let y = 4;
          return parts.map((part, k) => {
            const own = ordered.filter((w) => w.part_name === part);
            const top = y;
            y += row * (own.length + 1);
            const tone = TONES[k % TONES.length]!;
            return (
              <g key={part}>
                <rect
                  x={right}
                  y={top + 2}
                  width={width - right - 2}
                  height={row * (own.length + 1) - 8}
                  rx={6}
                  fill="var(--well)"
                  stroke="var(--line)"
                />
                <text x={right + 10 * em} y={top + row * 0.72} fontSize={size} fontWeight={600} fill="var(--ink)">
                  {fitted(part, width - right - 24 * em, size)}
                </text>
                {own.map((w, i) => {
                  const at = top + row * (i + 1.35);
                  return (
                    <g key={w.signal}>
                      <rect
                        x={1}
                        y={at - row * 0.4}
                        width={pinWidth}
                        height={row * 0.8}
                        rx={4}
                        fill="var(--sheet)"
                        stroke="var(--line)"
                      />
                      <text
                        x={1 + pinWidth / 2}
                        y={at + size * 0.35}
                        fontSize={size}
                        textAnchor="middle"
                        fill="var(--ink)"
                      >
                        {w.pin}
                      </text>
                      <line x1={pinWidth + 1} x2={right} y1={at} y2={at} stroke={tone} strokeWidth={2} />
                      <circle cx={right} cy={at} r={3.5 * em} fill={tone} />
                      <text x={right + 10 * em} y={at + size * 0.35} fontSize={size} fill="var(--soft)">
                        {fitted(w.name, width - right - 24 * em, size)}
                      </text>
                    </g>
                  );
                })}
              </g>
            );
          });
        }}
      </Chart>
    </Picture>
  );
}

const TONES = ["var(--ember)", "var(--pass)", "var(--ink)", "var(--watch)"];
