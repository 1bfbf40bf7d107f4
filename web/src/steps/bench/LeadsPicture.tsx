// The wires of the supply as a picture: what gives on the left, what is fed on the right, plus and ground between them.
import type { Schemas } from "../../api/client";
import { Chart, fitted, type Frame } from "../../ui/chart";
import { Picture } from "../../ui/picture";
import { leadText } from "./leadText";

type Row = Schemas["LeadRow"];

const ROW = 46;
const APART = 8; // between plus and ground
const SHARE = 0.3; // of the width, for the blocks of each side

const thick = (row: Row) => 1.2 + 2 * Math.sqrt(row.wire?.section_mm2 ?? row.section_mm2 ?? 2.5);

export function LeadsPicture({ rows }: { rows: readonly Row[] }) {
  const sources = [...new Set(rows.map((r) => r.source))];
  const ordered = sources.flatMap((source) => rows.filter((r) => r.source === source));
  return (
    <Picture
      name="supply-wires"
      title="plus above, its ground below"
      label={`${rows.length} wires of the supply from ${sources.length} sources`}
      table={{
        head: ["from", "to", "wire"],
        rows: ordered.map((r) => [r.source, r.target, leadText(r.wire, r.section_mm2)]),
      }}
    >
      <Chart tall={ROW * ordered.length + 8} least={300}>
        {(frame) => {
          let first = 0;
          return sources.map((source) => {
            const own = ordered.filter((r) => r.source === source);
            const at = first;
            first += own.length;
            return <Source key={source} name={source} rows={own} first={at} frame={frame} />;
          });
        }}
      </Chart>
    </Picture>
  );
}

function Source({ name, rows, first, frame }: { name: string; rows: readonly Row[]; first: number; frame: Frame }) {
  const { width, em } = frame;
  const [size, row, side] = [12 * em, ROW * em, width * SHARE];
  const top = 4 + first * row;
  return (
    <g>
      <Block x={1} y={top} wide={side} tall={rows.length * row - 8 * em} name={name} size={size} />
      {rows.map((r, i) => {
        const middle = top + i * row + (row - 8 * em) / 2;
        return (
          <g key={r.where}>
            {(["var(--ember)", "var(--ink)"] as const).map((tone, k) => (
              <line
                key={tone}
                x1={side + 1}
                x2={width - side - 1}
                y1={middle + (k - 0.5) * APART * em}
                y2={middle + (k - 0.5) * APART * em}
                stroke={tone}
                strokeWidth={thick(r) * em}
              />
            ))}
            <text x={width / 2} y={middle - 9 * em} fontSize={size} textAnchor="middle" fill="var(--soft)">
              {fitted(leadText(r.wire, r.section_mm2), width - 2 * side - 8 * em, size)}
            </text>
            <Block x={width - side - 1} y={top + i * row} wide={side} tall={row - 8 * em} name={r.target} size={size} />
          </g>
        );
      })}
    </g>
  );
}

function Block(props: { x: number; y: number; wide: number; tall: number; name: string; size: number }) {
  const { x, y, wide, tall, name, size } = props;
  return (
    <>
      <rect x={x} y={y} width={wide} height={tall} rx={6} fill="var(--well)" stroke="var(--line)" />
      <text
        x={x + wide / 2}
        y={y + tall / 2 + size * 0.35}
        fontSize={size}
        fontWeight={600}
        textAnchor="middle"
        fill="var(--ink)"
      >
        {fitted(name, wide - size, size)}
      </text>
    </>
  );
}
