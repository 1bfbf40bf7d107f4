// The case in section: shell, air and what is in it, each with its temperature; warmer is deeper.
import type { Schemas } from "../../api/client";
import { Chart, fitted, type Frame } from "../../ui/chart";
import { show } from "../../ui/format";
import { Picture } from "../../ui/picture";

type Answer = Schemas["HeatAnswer"];
type Row = Schemas["HeatRow"];

const MOST_NODES = 12;

export function HeatPicture({ answer, row }: { answer: Answer; row: Row }) {
  const nodes = answer.nodes.map((n, i) => ({
    where: n.where,
    name: n.name,
    degrees: row.node_c[i] ?? row.surroundings_c,
    stands_c: row.stands_c[i] ?? n.limit_c,
  }));
  const drawn = [...nodes].sort((a, b) => b.degrees - a.degrees).slice(0, MOST_NODES);
  return (
    <Picture
      name="heat"
      label={`${row.name}: ${show(row.inside_c, "°C")} inside, ${show(row.outer_c, "°C")} outside, where it is ${show(row.surroundings_c, "°C")}`}
      table={{
        head: ["what", ...answer.rows.map((r) => `${r.name.toLowerCase()} [°C]`)],
        rows: [
          ["air inside", ...answer.rows.map((r) => r.inside_c)],
          ["outside", ...answer.rows.map((r) => r.outer_c)],
          ["hottest spot outside", ...answer.rows.map((r) => r.hottest_outer_c)],
          ...answer.nodes.map((n, i) => [n.name, ...answer.rows.map((r) => r.node_c[i] ?? null)]),
          ...answer.nodes.map((n, i) => [`wall nearest to ${n.name}`, ...answer.rows.map((r) => r.spot_c[i] ?? null)]),
        ],
      }}
    >
      <Chart tall={({ width, em }) => (rowsOf(drawn.length, width, em) * 62 + 112) * em} least={300}>
        {(frame) => <Drawing frame={frame} row={row} nodes={drawn} />}
      </Chart>
    </Picture>
  );
}

const columnsOf = (width: number, em: number) => Math.max(1, Math.floor((width - 80 * em) / (190 * em)));
const rowsOf = (count: number, width: number, em: number) => Math.ceil(count / columnsOf(width, em));

type Drawn = { where: string; name: string; degrees: number; stands_c: number };

function Drawing({ frame, row, nodes }: { frame: Frame; row: Row; nodes: Drawn[] }) {
  const { width, height, em } = frame;
  const surroundings = row.surroundings_c;
  const size = 12.5 * em;
  const hottest = Math.max(...nodes.map((n) => n.degrees), row.inside_c, surroundings + 10);
  const depth = (c: number) =>
    Math.round(Math.min(Math.max((c - surroundings) / (hottest - surroundings), 0), 1) * 62 + 4);
  const warm = (c: number) => `color-mix(in srgb, var(--ember) ${depth(c)}%, var(--sheet))`;
  const [left, top] = [14 * em, 30 * em];
  const wall = 12 * em;
  const inner = { x: left + wall, y: top + wall, w: width - 2 * (left + wall), h: height - top - 24 * em - 2 * wall };
  const columns = columnsOf(width, em);
  const cell = { w: inner.w / columns, h: 62 * em };
  const text = { fontSize: size, fill: "var(--ink)" };
  return (
    <>
      <text x={left} y={18 * em} fontSize={size} fill="var(--soft)">
        around it {show(surroundings, "°C")}
      </text>
      <text x={width - left} y={18 * em} textAnchor="end" fontSize={size} fill="var(--ink)">
        outside {show(row.outer_c, "°C")}
      </text>
      {row.over && (
        <text x={left} y={height - 6 * em} fontSize={size} fill="var(--ink)">
          {fitted(`hottest outside ${show(row.hottest_outer_c, "°C")}, over ${row.over}`, width - 2 * left, size)}
        </text>
      )}
      <rect
        x={left}
        y={top}
        width={width - 2 * left}
        height={height - top - 24 * em}
        rx={10 * em}
        fill={warm(row.outer_c)}
        stroke="var(--ink)"
        strokeWidth="1.200"
      />
      <rect
        x={inner.x}
        y={inner.y}
        width={inner.w}
        height={inner.h}
        rx={5 * em}
        fill={warm(row.inside_c)}
        stroke="var(--ink)"
        strokeWidth="0.800"
      />
      <text x={inner.x + 10 * em} y={inner.y + 20 * em} {...text} fontWeight="600">
        air inside {show(row.inside_c, "°C")}
      </text>
      {nodes.map((n, i) => {
        const x = inner.x + (i % columns) * cell.w + 8 * em;
        const y = inner.y + 32 * em + Math.floor(i / columns) * cell.h;
        const over = n.degrees > n.stands_c;
        return (
          <g key={n.where}>
            <rect
              x={x}
              y={y}
              width={cell.w - 16 * em}
              height={cell.h - 12 * em}
              rx={4 * em}
              fill={warm(n.degrees)}
              stroke={over ? "var(--fail)" : "var(--line)"}
              strokeWidth={over ? 2 : 1}
            />
            <text x={x + 8 * em} y={y + 19 * em} {...text}>
              {fitted(n.name, cell.w - 32 * em, size)}
            </text>
            <text x={x + 8 * em} y={y + 38 * em} {...text} fontWeight="600">
              {show(n.degrees, "°C")}
              {over ? `, ${show(n.stands_c, "°C")} at most` : ""}
            </text>
          </g>
        );
      })}
    </>
  );
}
