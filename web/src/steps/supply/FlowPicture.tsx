// Where the power goes: from the sources through stages and rails to every part and every loss, as streams whose width
// is their power.
import { sankey } from "d3-sankey";
import { useMemo } from "react";
import { useShown } from "../../design/store";
import type { Evaluation } from "../../design/types";
import { show } from "../../ui/format";
import { Chart, fitted } from "../../ui/chart";
import { Picture } from "../../ui/picture";

type Flow = Evaluation["supply"]["flows"][number];
type Place = { id: string; name: string; kind: string };
type Link = { kind: string };
type Laid = ReturnType<typeof arrange>;
type Node = Laid["nodes"][number];

const NARROWEST_COLUMN = 112;
const LABEL_WIDTH = 176; // right of the last column
const BAR = 9;
const LABEL = 28; // two lines of text, which no other node's may cross
const TALL = 300;
const SMALLEST = 0.004; // of the whole: thinner streams are gathered
const TOP = 6;

/** Every node with what it is, and the streams between them. */
function graph(flow: Flow, names: Map<string, string>) {
  const links = gathered(flow);
  const kinds = new Map(links.map((l) => [l.target, l.kind]));
  const nodes: Place[] = [...new Set(links.flatMap((l) => [l.source, l.target]))].map((id) => ({
    id,
    name: names.get(id) ?? links.find((l) => l.target === id)?.name ?? id,
    kind: kinds.get(id) ?? "source",
  }));
  return { nodes, links: links.map((l) => ({ source: l.source, target: l.target, value: l.watts, kind: l.kind })) };
}

/** The nodes' and streams' places; parts stand in the last column, what is lost below what goes on. */
function arrange({ nodes, links }: ReturnType<typeof graph>, width: number) {
  const lay = (tall: number) =>
    sankey<Place, Link>()
      .nodeId((n) => n.id)
      .nodeAlign((n, columns) => (n.kind === "part" ? columns - 1 : (n.depth ?? 0)))
      .nodeWidth(BAR)
      .nodePadding(LABEL)
      .nodeSort((a, b) => Number(a.kind === "loss") - Number(b.kind === "loss") || (b.value ?? 0) - (a.value ?? 0))
      .extent([
        [0, TOP],
        [width, TOP + tall],
      ])({ nodes: nodes.map((n) => ({ ...n })), links: links.map((l) => ({ ...l })) });
  const columns = new Map<number, number>(); // how many nodes stand at each place across
  for (const n of lay(TALL * 10).nodes) columns.set(n.x0 ?? 0, (columns.get(n.x0 ?? 0) ?? 0) + 1);
  const tall = TALL + (Math.max(...columns.values()) - 1) * LABEL;
  return {
    ...lay(tall),
    last: columns.size - 1,
    lastX: Math.max(...columns.keys()),
    height: tall + TOP + LABEL,
  };
}

/** The links, with the thinnest of each node gathered into one. */
function gathered(flow: Flow): Flow["links"] {
  const thin = (l: Flow["links"][number]) =>
    (l.kind === "part" || l.kind === "loss") && l.watts < SMALLEST * flow.given_w;
  const kept = flow.links.filter((l) => !thin(l));
  const small = flow.links.filter(thin);
  for (const source of new Set(small.map((l) => l.source))) {
    const mine = small.filter((l) => l.source === source);
    const [only] = mine;
    if (mine.length === 1 && only) kept.push(only);
    else
      kept.push({
        source,
        target: `small:${source}`,
        kind: "part",
        name: `${mine.length} small ones`,
        watts: mine.reduce((sum, l) => sum + l.watts, 0),
      });
  }
  return kept;
}

export function FlowPicture({ mode, names }: { mode: string | null; names: Map<string, string> }) {
  const shown = useShown();
  const flow = shown?.supply.flows.find((f) => f.mode === mode);
  const whole = useMemo(() => (flow?.links.length ? graph(flow, names) : null), [flow, names]);
  const outline = useMemo(() => (whole ? arrange(whole, TALL) : null), [whole]);
  if (!flow || !whole || !outline) return <p className="text-soft">Nothing flows here.</p>;
  const table = {
    head: ["from", "to", "kind", "mean power [W]", "share"],
    rows: flow.links.map((l) => [names.get(l.source) ?? l.source, l.name, l.kind, l.watts, l.watts / flow.given_w]),
  };
  return (
    <Picture
      words={["stage", "rail", "efficiency"]}
      name="flow"
      title={`${show(flow.given_w, "W")} at ${flow.at}; hatched: lost on the way`}
      label="Mean power from the sources through stages and rails to every part and every loss"
      table={table}
    >
      <Chart tall={({ em }) => outline.height * em} least={outline.last * NARROWEST_COLUMN + LABEL_WIDTH}>
        {({ width, em }) => (
          <Drawing drawn={arrange(whole, width / em - LABEL_WIDTH + BAR)} width={width / em} em={em} />
        )}
      </Chart>
    </Picture>
  );
}

/** Streams and nodes; below a least width it scrolls in itself. */
function Drawing({ drawn, width, em }: { drawn: Laid; width: number; em: number }) {
  const step = (width - LABEL_WIDTH) / Math.max(1, drawn.last);
  return (
    <g transform={`scale(${em})`}>
      <defs>
        <pattern id="flow-lost" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="6" height="6" fill="var(--well)" />
          <rect width="2.500" height="6" fill="var(--ember)" />
        </pattern>
      </defs>
      {drawn.links.map((l) => {
        const [from, to] = [l.source as Node, l.target as Node];
        const thick = Math.max(l.width ?? 0, 0.75);
        const [x0, x1] = [from.x1 ?? 0, to.x0 ?? 0];
        const [y0, y1] = [(l.y0 ?? 0) - thick / 2, (l.y1 ?? 0) - thick / 2];
        const bend = (x0 + x1) / 2;
        return (
          <path
            key={`${from.id} ${to.id}`}
            d={`M${x0} ${y0}C${bend} ${y0} ${bend} ${y1} ${x1} ${y1}v${thick}C${bend} ${y1 + thick} ${bend} ${y0 + thick} ${x0} ${y0 + thick}Z`}
            fill={l.kind === "loss" ? "url(#flow-lost)" : "var(--ember)"}
            opacity={l.kind === "loss" ? 0.8 : 0.32}
          >
            <title>{`${from.name} → ${to.name}: ${show(l.value, "W")}`}</title>
          </path>
        );
      })}
      {drawn.nodes.map((n) => {
        const [x0, y0] = [n.x0 ?? 0, n.y0 ?? 0];
        const tall = Math.max((n.y1 ?? 0) - y0, 2);
        const last = x0 === drawn.lastX;
        return (
          <g key={n.id}>
            <rect
              x={x0}
              y={y0}
              width={BAR}
              height={tall}
              rx="2"
              fill={n.kind === "loss" ? "url(#flow-lost)" : "var(--ember)"}
              stroke="var(--ember)"
            />
            <text x={x0 + BAR + 5} y={y0 + Math.max(9, Math.min(tall / 2, 60))} fontSize="12" fill="var(--ink)">
              {fitted(n.name, (last ? width - x0 : step) - BAR - 9, 12)}
              <tspan x={x0 + BAR + 5} dy="13" fontSize="11" fill="var(--soft)">
                {show(n.value ?? 0, "W")}
              </tspan>
            </text>
          </g>
        );
      })}
    </g>
  );
}
