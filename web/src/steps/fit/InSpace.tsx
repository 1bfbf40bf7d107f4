// The case in space: turned with the mouse or the arrow keys, cut open, taken apart; bodies are dragged along the case's axes.
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { useDesign, useOpenDesign, useShown } from "../../design/store";
import type { Design } from "../../design/types";
import { Button, Check, Choice } from "../../ui/controls";
import { Plane } from "../../ui/plane";
import { StatusMark } from "../../design/fields/status";
import { show } from "../../ui/format";
import { useTheme } from "../../ui/theme";
import { bodyName, shiftAll } from "./bodies";
import { contentOf, shownBodies, TINTS } from "./content";
import { VIEW_NAMES } from "./eye";
import { canDraw, CaseScene, type Cut, type Label, type Shown, type Triple } from "./scene";

type Gaps = Schemas["GapsAnswer"];
const NAMED = "fit-names";
const LINE_PX = 17;
const SNAP_MM = 0.8;
const ASK_EVERY_MS = 120;
const STEP = 0.5;
const FINE = 0.1;
const TINTED = [
  ["gaps", "by gaps"],
  ["warmth", "by warmth"],
] as const;
const CUTS = [
  ["", "whole"],
  ["0", "cut across x"],
  ["1", "cut across y"],
  ["2", "cut across z"],
] as const;
const MOVES: Record<string, Triple> = {
  ArrowLeft: [-1, 0, 0],
  ArrowRight: [1, 0, 0],
  ArrowUp: [0, 1, 0],
  ArrowDown: [0, -1, 0],
  PageUp: [0, 0, 1],
  PageDown: [0, 0, -1],
};

export function InSpace({ selected, onSelect }: { selected: string | null; onSelect: (where: string | null) => void }) {
  const design = useOpenDesign();
  const fit = useShown()?.fit;
  const edit = useDesign((s) => s.edit);
  const theme = useTheme((s) => s.theme);
  const canvas = useRef<HTMLCanvasElement>(null);
  const scene = useRef<CaseScene | null>(null);
  const [drawable] = useState(canDraw);
  const [cutAxis, setCutAxis] = useState<"" | "0" | "1" | "2">("");
  const [cutAt, setCutAt] = useState(0.5);
  const [pointed, setPointed] = useState<string | null>(null);
  const [apart, setApart] = useState(false);
  const [named, setNamed] = useState(() => sessionStorage.getItem(NAMED) === "1");
  const names = useRef<HTMLDivElement>(null);
  const [moved, setMoved] = useState<{ where: string; by: Triple } | null>(null);
  const gaps = useGaps(design, selected, moved);
  const [tinted, setTinted] = useState<"gaps" | "warmth">("gaps");
  const warmth = useWarmth(tinted === "warmth");
  const latest = useRef({ design, gaps, onSelect, edit });
  useEffect(() => {
    latest.current = { design, gaps, onSelect, edit };
  });

  useEffect(() => {
    const here = canvas.current;
    if (!here) return undefined;
    const start: { where: string; rulers: Gaps["rulers"] } = { where: "", rulers: [] };
    const told = {
      hover: setPointed,
      select: (where: string | null) => latest.current.onSelect(where),
      dragging: (where: string, by: Triple): Triple => {
        if (start.where !== where) Object.assign(start, { where, rulers: latest.current.gaps?.rulers ?? [] });
        const snapped = by.map((v, axis) => snap(v, axis, start.rulers)) as unknown as Triple;
        setMoved({ where, by: snapped });
        return snapped;
      },
      dropped: (where: string, by: Triple) => {
        start.where = "";
        setMoved(null);
        if (by.every((v) => v === 0)) return;
        const name = bodyName(latest.current.design, where);
        latest.current.edit(`Move ${name}`, (d) => shiftAll(d, where, by));
      },
    };
    const placed = (at: readonly Label[]) => {
      if (names.current) write(names.current, at);
    };
    const colour = (name: string) => getComputedStyle(here).getPropertyValue(name).trim() || "gray";
    const made = new CaseScene(here, { ...told, placed }, colour);
    scene.current = made;
    const watched = new ResizeObserver(() => made.resize(here.clientWidth, here.clientHeight));
    watched.observe(here);
    made.resize(here.clientWidth, here.clientHeight);
    return () => {
      watched.disconnect();
      made.dispose();
      scene.current = null;
    };
  }, []);

  const [x, y, z] = design.enclosure.outer_mm;
  const bodies = useMemo(() => (fit ? shownBodies(design, fit, warmth) : []), [fit, design, warmth]);
  const own = useOwnShell(bodies);
  const content = useMemo(() => fit && contentOf(design, fit, bodies, own, theme), [design, fit, bodies, own, theme]);
  useEffect(() => {
    if (content) scene.current?.show(content);
  }, [content]);
  useEffect(() => scene.current?.select(selected), [selected]);
  const size = cutAxis === "" ? 0 : [x, y, z][Number(cutAxis)]!;
  useEffect(() => {
    const cut: Cut = cutAxis === "" ? null : { axis: Number(cutAxis) as 0 | 1 | 2, at: cutAt * size };
    scene.current?.setCut(cut);
  }, [cutAxis, cutAt, size]);
  useEffect(() => scene.current?.setApart(apart), [apart]);
  useEffect(() => {
    sessionStorage.setItem(NAMED, named ? "1" : "");
    scene.current?.setNamed(named);
  }, [named]);
  useEffect(() => {
    const tint = gaps && gaps.status !== "pass" ? TINTS[gaps.status]! : "--ink";
    scene.current?.setLines((gaps?.rulers ?? []).map((r) => ({ begin: r.begin, end: r.end, tint })));
  }, [gaps]);

  const onKey = (e: KeyboardEvent) => {
    const way = MOVES[e.key];
    const places = bodies.map((b) => b.where);
    if (way && selected && !e.altKey) {
      const by = way.map((v) => v * (e.shiftKey ? FINE : STEP)) as unknown as Triple;
      edit(`Move ${bodyName(design, selected)}`, (d) => shiftAll(d, selected, by));
    } else if (way) scene.current?.orbit(-way[0], way[1] + way[2]);
    else if (e.key === "+" || e.key === "=") scene.current?.zoom(0.85);
    else if (e.key === "-") scene.current?.zoom(1.18);
    else if (e.key === "." || e.key === ",") {
      const next = places.indexOf(selected ?? "") + (e.key === "." ? 1 : -1);
      onSelect(places[(next + places.length) % Math.max(places.length, 1)] ?? null);
    } else if (e.key === "Escape" && selected) onSelect(null);
    else return;
    e.preventDefault();
  };

  if (!drawable)
    return (
      <p className="text-soft">
        This browser draws nothing in space (it has no WebGL). The flat views and the table below tell the same.
      </p>
    );
  return (
    <div>
      <div className="border-line relative overflow-hidden rounded-md border">
        {/* oxlint-disable-next-line jsx-a11y/no-noninteractive-element-interactions -- an application takes keys */}
        <div
          tabIndex={0}
          role="application"
          aria-label={`The case in space, ${bodies.length} bodies in it`}
          aria-describedby="in-space-keys"
          className="focus-visible:outline-ink outline-offset-[-2px] focus-visible:outline-2"
          onKeyDown={onKey}
        >
          <canvas
            ref={canvas}
            data-testid="in-space"
            className="block h-[clamp(20rem,calc(100dvh-27rem),46rem)] w-full touch-none print:h-auto print:object-contain"
          />
        </div>
        <div ref={names} aria-hidden className="pointer-events-none absolute inset-0 overflow-hidden print:hidden" />
        {pointed && (
          <p className="bg-sheet/90 pointer-events-none absolute top-2 left-2 rounded-md px-2 py-1 text-sm">
            {bodyName(design, pointed)}
            {warmth?.get(pointed) && warmthOf(warmth.get(pointed)!)}
          </p>
        )}
        {selected && gaps && <GapList name={bodyName(design, selected)} gaps={gaps} />}
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-x-2 gap-y-1 print:hidden">
        {VIEW_NAMES.map((name) => (
          <Button key={name} kind="quiet" onClick={() => scene.current?.look(name)}>
            {name}
          </Button>
        ))}
        <Check label="Taken apart" checked={apart} onChange={setApart} />
        <Check label="Names" checked={named} onChange={setNamed} />
        <div className="w-32">
          <Choice label="Coloured by" bare value={tinted} options={TINTED} onChange={setTinted} />
        </div>
        <div className="w-36">
          <Choice label="Cut" bare value={cutAxis} options={CUTS} onChange={setCutAxis} />
        </div>
        {cutAxis !== "" && <Plane at={cutAt} size={size} move={setCutAt} />}
      </div>
      {warmth && <Legend />}
      {own && own.thin.length > 0 && <ThinPlaces spots={own.thin} />}
      <p id="in-space-keys" className="text-soft mt-1 text-sm print:hidden">
        Drag the ground to turn it, a body to move it. Keys: comma and full stop choose a body, arrows move it by 0.5 mm
        (Page Up and Down upwards, Shift 0.1 mm); with none chosen, or with Alt, arrows turn the case, + and − go nearer
        and farther.
      </p>
    </div>
  );
}

/** Writes the names over the picture, one below the other where they would lie on each other. */
function write(over: HTMLDivElement, labels: readonly Label[]): void {
  const taken: { x: number; y: number; wide: number }[] = [];
  over.replaceChildren(
    ...labels
      .toSorted((a, b) => a.y - b.y)
      .map(({ name, x, y }) => {
        const text = document.createElement("span");
        text.textContent = name;
        text.className = "bg-sheet/80 text-ink absolute max-w-40 truncate rounded px-1 text-xs leading-4";
        const wide = Math.min(name.length * 6.2, 160);
        let top = y;
        for (const t of taken) if (Math.abs(t.x - x) < (t.wide + wide) / 2 && top < t.y + LINE_PX) top = t.y + LINE_PX;
        taken.push({ x, y: top, wide });
        text.style.transform = `translate(${x}px, ${top}px) translate(-50%, -50%)`;
        return text;
      }),
  );
}

/** Where a body is dragged to: to a tenth of a millimetre, or to just what it needs to its neighbour. */
function snap(by: number, axis: number, rulers: Gaps["rulers"]): number {
  const sides = [
    ["left", "right"],
    ["front", "back"],
    ["bottom", "top"],
  ][axis]!;
  for (const ruler of rulers) {
    const side = sides.indexOf(ruler.side);
    if (side < 0) continue;
    const there = (side === 1 ? 1 : -1) * (ruler.gap_mm - ruler.needed_mm);
    if (Math.abs(by - there) < SNAP_MM && by !== 0) return Number(there.toFixed(2));
  }
  return Number((Math.round(by / FINE) * FINE).toFixed(2));
}

/** The gaps around the chosen body, of where it is dragged to meanwhile; asked for a few times a second. */
function useGaps(design: Design, where: string | null, moved: { where: string; by: Triple } | null): Gaps | null {
  const [found, setFound] = useState<{ where: string; gaps: Gaps | null } | null>(null);
  const last = useRef(0);
  useEffect(() => {
    if (!where) return undefined;
    const ending = new AbortController();
    const wait = Math.max(0, last.current + ASK_EVERY_MS - performance.now());
    const timer = setTimeout(() => {
      last.current = performance.now();
      const asked = structuredClone(design);
      if (moved?.where === where) shiftAll(asked, where, moved.by);
      ask(client.POST("/api/answers/gaps", { body: asked, params: { query: { where } }, signal: ending.signal }))
        .then((gaps) => setFound({ where, gaps }))
        .catch(() => undefined); // without a connection there are no live gaps
    }, wait);
    return () => {
      clearTimeout(timer);
      if (!moved) ending.abort();
    };
  }, [design, where, moved]);
  return found?.where === where ? found.gaps : null;
}

function GapList({ name, gaps }: { name: string; gaps: Gaps }) {
  return (
    <div
      className="bg-sheet/90 pointer-events-none p-2 text-sm sm:absolute sm:top-2 sm:right-2 sm:max-w-64 sm:rounded-md"
      role="status"
    >
      <p className="font-medium">{name}</p>
      {gaps.tight.length > 0 && <p className="text-fail">{gaps.sentence}</p>}
      <dl className="text-soft grid grid-cols-[auto_1fr_auto] gap-x-2">
        {gaps.rulers.map((r) => (
          <div key={r.side} className="contents">
            <dt>{r.side}</dt>
            <dd className="truncate">{r.neighbour}</dd>
            <dd className="text-ink text-right tabular-nums">{show(r.gap_mm, "mm")}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}

/** Where the pieces as made are thinner than the process holds. */
function ThinPlaces({ spots }: { spots: Schemas["ShellAnswer"]["thin"] }) {
  return (
    <details className="mt-1 text-[0.9375rem]">
      <summary className="flex cursor-pointer items-center gap-2">
        <StatusMark status="watch" />
        As made, the case is only {show(spots[0]?.thickness_mm, "mm")} thin where something bites into its wall
      </summary>
      <ul className="text-soft ml-6 text-sm">
        {spots.map((t) => (
          <li key={t.at_mm.join()}>
            {show(t.thickness_mm, "mm")} at x {show(t.at_mm[0], "mm")}, y {show(t.at_mm[1], "mm")}, z{" "}
            {show(t.at_mm[2], "mm")}
          </li>
        ))}
      </ul>
      <p className="text-soft ml-6 text-sm">
        Such webs break or do not print. Move the opening or the post away from it, or thicken the wall.
      </p>
    </details>
  );
}

type Node = Schemas["HeatNode"];

const warmthOf = (node: Node) => `, up to ${show(node.worst_c, "°C")}; stands ${show(node.stands_c, "°C")}`;

/** How warm everything gets at its worst, by its place in the document; nothing while nobody wants it. */
function useWarmth(wanted: boolean): Map<string, Node> | null {
  const design = useOpenDesign();
  const asked = useQuery({
    queryKey: ["heat", design],
    queryFn: ({ signal }) => ask(client.POST("/api/answers/heat", { body: design, signal })),
    enabled: wanted,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });
  const nodes = wanted ? asked.data?.nodes : undefined;
  return useMemo(() => (nodes ? new Map(nodes.map((n) => [n.where, n])) : null), [nodes]);
}

function Legend() {
  return (
    <p className="text-soft mt-1 flex flex-wrap items-center gap-2 text-sm">
      as warm as its surroundings
      <span
        aria-hidden
        className="h-2.5 w-40 rounded-full"
        style={{ background: "linear-gradient(to right, var(--soft), var(--ember))" }}
      />
      <span>
        at its limit, <span className="text-fail">beyond it</span>; each at its worst on the hottest day, listed under
        Charge
      </span>
    </p>
  );
}

/** The pieces of the case as they are made; asked for anew when the case changes, or what goes through it. */
function useOwnShell(bodies: readonly Shown[]): Schemas["ShellAnswer"] | null {
  const design = useOpenDesign();
  const { shape, ...box } = design.enclosure;
  const through = bodies.filter((b) => b.body.through).map((b) => [b.body, b.copies]);
  const asked = useQuery({
    queryKey: ["shell", shape?.name, shape?.volume_mm3, box, through],
    queryFn: ({ signal }) => ask(client.POST("/api/answers/shell", { body: design, signal })),
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });
  return asked.data ?? null;
}
