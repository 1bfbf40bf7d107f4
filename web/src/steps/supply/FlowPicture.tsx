// Where the power goes: from the sources through stages and rails to every part and every loss, as streams whose width
// is their power.
import { useMemo } from "react";
import { useShown } from "../../design/store";
import type { Evaluation } from "../../design/types";
import { show } from "../../ui/format";
import { Chart, fitted, type Frame } from "../../ui/chart";
import { Picture } from "../../ui/picture";

type Flow = Evaluation["supply"]["flows"][number];
type Place = { id: string; name: string; column: number; watts: number; y: number; kind: string };
type Stream = { from: Place; to: Place; watts: number; kind: string; y0: number; y1: number };

const NARROWEST_COLUMN = 112;
const LABEL_WIDTH = 176; // right of the last column
const BAR = 9;
const GAP = 14;
const LABEL = 28; // two lines of text, which no other node's may cross
const TALL = 300;
const SMALLEST = 0.004; // of the whole: thinner streams are gathered

/** Every node with its column, power and place, and the streams between them. */
function arrange(flow: Flow, names: Map<string, string>) {
  const places = new Map<string, Place>();
  const sources = new Set(flow.links.map((l) => l.source));
  const targets = new Set(flow.links.map((l) => l.target));
  const starts = [...sources].filter((s) => !targets.has(s));
  const links = gathered(flow);
  const kinds = new Map(links.map((l) => [l.target, l.kind]));
  for (const id of new Set(links.flatMap((l) => [l.source, l.target])))
    places.set(id, {
      id,
      name: names.get(id) ?? links.find((l) => l.target === id)?.name ?? id,
      column: 0,
      watts: links.filter((l) => l.target === id).reduce((sum, l) => sum + l.watts, 0),
      y: 0,
      kind: kinds.get(id) ?? "source",
    });
  for (const id of starts)
    places.get(id)!.watts = links.filter((l) => l.source === id).reduce((sum, l) => sum + l.watts, 0);
  for (let again = true; again;) {
    again = false;
    for (const l of links) {
      const [a, b] = [places.get(l.source)!, places.get(l.target)!];
      if (b.column < a.column + 1) {
        b.column = a.column + 1;
        again = true;
      }
    }
  }
  const last = Math.max(...[...places.values()].map((p) => p.column));
  for (const p of places.values()) if (p.kind === "part") p.column = last;

  // order: follow the streams from the left, losses after what goes on
  const order: Place[] = [];
  const visit = (id: string) => {
    const place = places.get(id)!;
    if (order.includes(place)) return;
    order.push(place);
    links
      .filter((l) => l.source === id)
      .toSorted((a, b) => Number(a.kind === "loss") - Number(b.kind === "loss") || b.watts - a.watts)
      .forEach((l) => visit(l.target));
  };
  starts.forEach(visit);
  const whole = starts.reduce((sum, id) => sum + places.get(id)!.watts, 0);
  const scale = TALL / whole;
  const columns = Array.from({ length: last + 1 }, (_, c) => order.filter((p) => p.column === c));
  const height = Math.max(...columns.map((c) => c.reduce((sum, p) => sum + Math.max(p.watts * scale + GAP, LABEL), 0)));
  for (const column of columns) {
    let y = 6;
    for (const p of column) {
      p.y = y;
      y += Math.max(p.watts * scale + GAP, LABEL);
    }
  }
  const out = new Map<string, number>();
  const into = new Map<string, number>();
  const streams: Stream[] = order.flatMap((place) =>
    links
      .filter((l) => l.source === place.id)
      .toSorted((a, b) => places.get(a.target)!.y - places.get(b.target)!.y)
      .map((l) => {
        const [from, to] = [places.get(l.source)!, places.get(l.target)!];
        const [a, b] = [out.get(from.id) ?? 0, into.get(to.id) ?? 0];
        out.set(from.id, a + l.watts * scale);
        into.set(to.id, b + l.watts * scale);
        return { from, to, watts: l.watts, kind: l.kind, y0: from.y + a, y1: to.y + b };
      }),
  );
  return { places: order, streams, scale, height: height + 12, last, whole };
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
  const drawn = useMemo(() => (flow?.links.length ? arrange(flow, names) : null), [flow, names]);
  if (!flow || !drawn) return <p className="text-soft">Nothing flows here.</p>;
  const table = {
    head: ["from", "to", "kind", "mean power [W]", "share"],
    rows: flow.links.map((l) => [names.get(l.source) ?? l.source, l.name, l.kind, l.watts, l.watts / flow.given_w]),
  };
  return (
    <Picture
      name="flow"
      title={`${show(flow.given_w, "W")} at ${flow.at}; hatched: lost on the way`}
      label="Mean power from the sources through stages and rails to every part and every loss"
      table={table}
    >
      <Chart tall={({ em }) => drawn.height * em} least={drawn.last * NARROWEST_COLUMN + LABEL_WIDTH}>
        {(frame) => <Drawing frame={frame} drawn={drawn} />}
      </Chart>
    </Picture>
  );
}

type DrawingProps = { frame: Frame; drawn: ReturnType<typeof arrange> };

/** Streams and nodes; below a least width it scrolls in itself. */
function Drawing({ frame: { width, em }, drawn }: DrawingProps) {
  const step = (width / em - LABEL_WIDTH - BAR) / Math.max(1, drawn.last);
  const x = (p: Place) => p.column * step;
  return (
    <g transform={`scale(${em})`}>
      <defs>
        <pattern id="flow-lost" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="6" height="6" fill="var(--well)" />
          <rect width="2.500" height="6" fill="var(--ember)" />
        </pattern>
      </defs>
      {drawn.streams.map((s) => {
        const [x0, x1] = [x(s.from) + BAR, x(s.to)];
        const thick = Math.max(s.watts * drawn.scale, 0.75);
        const bend = (x0 + x1) / 2;
        return (
          <path
            key={`${s.from.id} ${s.to.id}`}
            d={`M${x0} ${s.y0}C${bend} ${s.y0} ${bend} ${s.y1} ${x1} ${s.y1}v${thick}C${bend} ${s.y1 + thick} ${bend} ${s.y0 + thick} ${x0} ${s.y0 + thick}Z`}
            fill={s.kind === "loss" ? "url(#flow-lost)" : "var(--ember)"}
            opacity={s.kind === "loss" ? 0.8 : 0.32}
          >
            <title>{`${s.from.name} → ${s.to.name}: ${show(s.watts, "W")}`}</title>
          </path>
        );
      })}
      {drawn.places.map((p) => {
        const tall = Math.max(p.watts * drawn.scale, 2);
        const label = fitted(p.name, (p.column === drawn.last ? width / em - x(p) : step) - BAR - 9, 12);
        return (
          <g key={p.id}>
            <rect
              x={x(p)}
              y={p.y}
              width={BAR}
              height={tall}
              rx="2"
              fill={p.kind === "loss" ? "url(#flow-lost)" : "var(--ember)"}
              stroke="var(--ember)"
            />
            <text x={x(p) + BAR + 5} y={p.y + Math.max(9, Math.min(tall / 2, 60))} fontSize="12" fill="var(--ink)">
              {label}
              <tspan x={x(p) + BAR + 5} dy="13" fontSize="11" fill="var(--soft)">
                {show(p.watts, "W")}
              </tspan>
            </text>
          </g>
        );
      })}
    </g>
  );
}
