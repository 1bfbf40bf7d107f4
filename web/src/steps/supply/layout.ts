// Where every node of the tree stands: a column per depth, rails in the last one, rows so that lines rarely cross.
import type { Design, Evaluation } from "../../design/types";
import { parts as figureParts, show } from "../../ui/format";
import { feedsOf, type SupplySelection } from "./selection";

export type Node = SupplySelection & {
  /** the node's keys of what feeds it */
  from: string[];
  column: number;
  row: number;
  name: string;
  lines: string[];
  watts: number;
  off: boolean;
};

/** Sources, stages and rails, with what they do over the average day, or in one mode. */
export function layout(design: Design, shown: Evaluation | null, mode: string | null): Node[] {
  const { sources, stages, rails } = design.supply;
  const there = design.modes.find((m) => m.id === mode);
  const flow = shown?.supply.flows.find((f) => f.mode === mode);
  const into = (target: string) =>
    flow?.links.filter((l) => l.target === target).reduce((sum, l) => sum + l.watts, 0) ?? 0;
  const depths = new Map<string, number>(); // known ones: many ways may lead to a stage
  const depth = (id: string): number => {
    const stage = stages.find((s) => s.id === id);
    const known = depths.get(id) ?? (stage ? Math.max(...feedsOf(stage).map(depth)) + 1 : 0);
    depths.set(id, known);
    return known;
  };
  const last = Math.max(0, ...stages.map((s) => depth(s.id))) + 1;
  const nodes: Node[] = [];
  let row = 0;
  const visit = (id: string): [number, number] => {
    const first = row;
    for (const stage of stages.filter((s) => s.input === id)) {
      const report = shown?.supply.stages.find((s) => s.stage === stage.id);
      const [from, to] = visit(stage.id);
      const off = there?.off_stages.includes(stage.id) ?? false;
      nodes.push({
        id: stage.id,
        kind: "stage",
        from: feedsOf(stage),
        column: depth(stage.id),
        row: (from + to) / 2,
        name: stage.name,
        lines: mode
          ? [
              off ? "switched off" : `takes ${show(into(stage.id), "W")}`,
              `loses ${show(into(`loss:${stage.id}`), "W")}`,
            ]
          : [
              `${show(report?.output_voltage.value, "V")}, mean ${show(report?.output_current.value, "A")}`,
              `${show(report?.efficiency.value, "%")}, loses ${show(report?.loss.value, "W")}`,
            ],
        watts: into(stage.id),
        off,
      });
    }
    for (const rail of rails.filter((r) => r.feed === id)) {
      const report = shown?.supply.rails.find((r) => r.rail === rail.id);
      const parts = design.parts.filter((p) => p.rail === rail.id);
      const [low] = figureParts(report?.voltage.low ?? null, "V");
      const count = `${parts.length} ${parts.length === 1 ? "part" : "parts"}`;
      nodes.push({
        id: rail.id,
        kind: "rail",
        from: [id],
        column: last,
        row,
        name: rail.name,
        lines: mode
          ? [count, `takes ${show(into(`rail:${rail.id}`), "W")}`]
          : [`${low} to ${show(report?.voltage.high, "V")}`, `${count}, mean ${show(report?.current.value, "A")}`],
        watts: into(`rail:${rail.id}`),
        off: false,
      });
      row += 1;
    }
    if (row === first) row += 1; // a stage that feeds nothing still takes its place
    return [first, row - 1];
  };
  const { battery } = design;
  const count = battery.series * battery.parallel;
  const [from, to] = visit("battery");
  nodes.push({
    id: "battery",
    kind: "battery",
    from: [],
    column: 0,
    row: (from + to) / 2,
    name: `${count > 1 ? `${count} × ` : ""}${battery.cell.name}`,
    lines: [
      `${figureParts(shown?.battery.cutoff_voltage.value ?? null, "V")[0]} to ${show(shown?.battery.full_voltage.value, "V")}`,
      mode ? "" : `mean ${show(shown?.draw.mean.value, "A")}`,
    ],
    watts: 0,
    off: false,
  });
  for (const source of sources) {
    const [first, end] = visit(source.id);
    const modes = design.modes.filter((m) => m.plugged.includes(source.id)).map((m) => m.name.toLowerCase());
    nodes.push({
      id: source.id,
      kind: "source",
      from: [],
      column: 0,
      row: (first + end) / 2,
      name: source.name,
      lines: [
        `${show(source.voltage_v, "V")}, up to ${show(source.limit_a, "A")}`,
        modes.length ? `while ${modes.join(", ")}` : "plugged in in no mode",
      ],
      watts: 0,
      off: there ? !there.plugged.includes(source.id) : modes.length === 0,
    });
  }
  return nodes;
}

/** The node beside another one in a direction, for the arrow keys. */
export function neighbour(nodes: Node[], at: Node, key: string): Node | undefined {
  const near = (found: Node[]) => found.toSorted((a, b) => Math.abs(a.row - at.row) - Math.abs(b.row - at.row))[0];
  if (key === "ArrowLeft") return nodes.find((n) => n.id === at.from[0] && n.kind !== "rail");
  if (key === "ArrowRight") return near(nodes.filter((n) => n.from.includes(at.id) && at.kind !== "rail"));
  const column = nodes.filter((n) => n.column === at.column).toSorted((a, b) => a.row - b.row);
  const index = column.indexOf(at);
  return key === "ArrowUp" ? column[index - 1] : key === "ArrowDown" ? column[index + 1] : undefined;
}
