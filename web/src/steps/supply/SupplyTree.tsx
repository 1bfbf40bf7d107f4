// The tree as a picture: battery on the left, stages in the order of the current, rails with their parts on the right.
// The width of a line follows the mean power in it.
import { useMemo } from "react";
import { useOpenDesign, useShown } from "../../design/store";
import type { Design, Evaluation } from "../../design/types";
import { parts as figureParts, show } from "../../ui/format";
import type { SupplySelection } from "./SupplyDetails";

type Node = {
  id: string;
  kind: "battery" | "stage" | "rail";
  from: string | null;
  column: number;
  row: number;
  name: string;
  lines: string[];
  watts: number;
};

const WIDTH = 184;
const HEIGHT = 76;
const GAP_X = 44;
const GAP_Y = 14;

/** Places every node: a column per depth, rails in the last one, rows so that lines do not cross. */
function layout(design: Design, shown: Evaluation | null): Node[] {
  const { stages, rails } = design.supply;
  const depth = (id: string): number => {
    const stage = stages.find((s) => s.id === id);
    return stage ? depth(stage.input) + 1 : 0;
  };
  const last = Math.max(0, ...stages.map((s) => depth(s.id))) + 1;
  const nodes: Node[] = [];
  let row = 0;
  const visit = (id: string): [number, number] => {
    const first = row;
    for (const stage of stages.filter((s) => s.input === id)) {
      const report = shown?.supply.stages.find((s) => s.stage === stage.id);
      const [from, to] = visit(stage.id);
      const out = (report?.output_current.value ?? 0) * (report?.output_voltage.value ?? 0);
      nodes.push({
        id: stage.id,
        kind: "stage",
        from: id,
        column: depth(stage.id),
        row: (from + to) / 2,
        name: stage.name,
        lines: [
          `${show(report?.output_voltage.value, "V")}, mean ${show(report?.output_current.value, "A")}`,
          `${show(report?.efficiency.value, "%")}, loses ${show(report?.loss.value, "W")}`,
        ],
        watts: out + (report?.loss.value ?? 0),
      });
    }
    for (const rail of rails.filter((r) => r.feed === id)) {
      const report = shown?.supply.rails.find((r) => r.rail === rail.id);
      const count = design.parts.filter((p) => p.rail === rail.id).length;
      const [low] = figureParts(report?.voltage.low ?? null, "V");
      nodes.push({
        id: rail.id,
        kind: "rail",
        from: id,
        column: last,
        row,
        name: rail.name,
        lines: [
          `${low} to ${show(report?.voltage.high, "V")}`,
          `${count} ${count === 1 ? "part" : "parts"}, mean ${show(report?.current.value, "A")}`,
        ],
        watts: (report?.current.value ?? 0) * (report?.voltage.value ?? 0),
      });
      row += 1;
    }
    if (row === first) row += 1; // a stage that feeds nothing still takes its place
    return [first, row - 1];
  };
  const [from, to] = visit("battery");
  const { battery } = design;
  const count = battery.series * battery.parallel;
  nodes.push({
    id: "battery",
    kind: "battery",
    from: null,
    column: 0,
    row: (from + to) / 2,
    name: `${count > 1 ? `${count} × ` : ""}${battery.cell.name}`,
    lines: [
      `${figureParts(shown?.battery.cutoff_voltage.value ?? null, "V")[0]} to ${show(shown?.battery.full_voltage.value, "V")}`,
      `mean ${show(shown?.draw.mean.value, "A")}`,
    ],
    watts: 0,
  });
  return nodes;
}

export function SupplyTree({
  selected,
  onSelect,
}: {
  selected: SupplySelection | null;
  onSelect: (s: SupplySelection) => void;
}) {
  const design = useOpenDesign();
  const shown = useShown();
  const nodes = useMemo(() => layout(design, shown), [design, shown]);
  const columns = Math.max(...nodes.map((n) => n.column)) + 1;
  const rows = Math.max(...nodes.map((n) => n.row)) + 1;
  const width = columns * (WIDTH + GAP_X) - GAP_X;
  const height = rows * (HEIGHT + GAP_Y) - GAP_Y;
  const x = (n: Node) => n.column * (WIDTH + GAP_X);
  const y = (n: Node) => n.row * (HEIGHT + GAP_Y);
  const most = Math.max(...nodes.map((n) => n.watts), 1e-12);
  return (
    <div className="relative overflow-x-auto p-1">
      <div className="relative mx-auto" style={{ width, height }}>
        <svg width={width} height={height} className="absolute inset-0" aria-hidden>
          {nodes.map((n) => {
            const source = nodes.find((s) => s.id === n.from);
            if (!source) return null;
            const [x1, y1, x2, y2] = [x(source) + WIDTH, y(source) + HEIGHT / 2, x(n), y(n) + HEIGHT / 2];
            const bend = (x1 + x2) / 2;
            return (
              <path
                key={n.id}
                d={`M${x1} ${y1} C${bend} ${y1} ${bend} ${y2} ${x2} ${y2}`}
                fill="none"
                stroke="var(--ember)"
                strokeWidth={1.5 + 9 * Math.sqrt(n.watts / most)}
                opacity="0.75"
              />
            );
          })}
        </svg>
        {nodes.map((n) => {
          const isSelected = selected?.id === n.id && selected.kind === n.kind;
          const look =
            n.kind === "rail"
              ? "rounded-full px-5"
              : n.kind === "battery"
                ? "rounded-[18px] border-2 px-3"
                : "rounded-md px-3";
          return (
            <button
              key={`${n.kind} ${n.id}`}
              type="button"
              aria-pressed={isSelected}
              onClick={() => onSelect({ kind: n.kind, id: n.id })}
              className={`bg-paper hover:border-ink absolute border py-1.5 text-left ${look} ${isSelected ? "border-ink outline-ink outline-2" : "border-line"}`}
              style={{ left: x(n), top: y(n), width: WIDTH, height: HEIGHT }}
            >
              <span className="block truncate text-[0.9375rem] leading-tight font-medium" title={n.name}>
                {n.name}
              </span>
              {n.lines.map((line) => (
                <span key={line} className="text-soft block truncate text-[0.8125rem] leading-snug">
                  {line}
                </span>
              ))}
            </button>
          );
        })}
      </div>
    </div>
  );
}
