// One orthogonal view of the case. Coordinates are millimetres; `across` and `up` are axes of the case.
import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { useDesign, useOpenDesign, useShown } from "../../design/store";
import type { Evaluation, Status } from "../../design/types";
import { useDrag } from "../../ui/drag";
import { shiftAll } from "./bodies";

export type View = { name: string; across: 0 | 1 | 2; up: 0 | 1 | 2 };

export const ABOVE: View = { name: "From above", across: 1, up: 0 };
export const FRONT: View = { name: "From the front", across: 0, up: 2 };
export const RIGHT: View = { name: "From the right", across: 1, up: 2 };
const AXES = ["x", "y", "z"] as const;
const STEP = 0.5;
const FINE = 0.1;
const MARGIN = 15;

// colour only where something is wrong, and for the energy itself
const EDGE: Record<string, string> = { pass: "var(--soft)", watch: "var(--watch)", fail: "var(--fail)" };

type Placed = Evaluation["fit"]["bodies"][number];

/** The outline of what is not a box along the axes, moved as it is dragged. */
function outlineOf(body: Placed, view: View, moved: [number, number], height: number): string | null {
  const depth = 3 - view.across - view.up;
  const outlines = body.outlines[depth];
  return outlines ? drawn(outlines, view, moved, height) : null;
}

/** Outlines as the view has them; their two axes come in their order. */
function drawn(outlines: number[][][], view: View, moved: [number, number], height: number): string {
  const first = view.across < view.up ? 0 : 1;
  const points = outlines.map((outline) =>
    outline.map((p) => `${p[first]! + moved[0]} ${height - p[1 - first]! - moved[1]}`).join("L"),
  );
  return points.map((line) => `M${line}z`).join("");
}

const snapped = (mm: number) => Math.round(mm / FINE) * FINE;

export function CaseView({
  view,
  scale,
  selected,
  onSelect,
}: {
  view: View;
  scale: number;
  selected: string | null;
  onSelect: (where: string | null) => void;
}) {
  const design = useOpenDesign();
  const fit = useShown()?.fit;
  const edit = useDesign((s) => s.edit);
  const { outer_mm: outer, corner_mm } = design.enclosure;
  const walls = fit?.walls_mm ?? [0, 0, 0, 0, 0, 0];
  const [left, right] = [walls[2 * view.across]!, walls[2 * view.across + 1]!];
  const [under, over] = [walls[2 * view.up]!, walls[2 * view.up + 1]!];
  const upright = view.across !== 2 && view.up !== 2; // along the upright edges
  const corner = upright ? corner_mm : 0;
  const innerCorner = upright ? (fit?.inner_corner_mm ?? 0) : 0;
  const [drag, setDrag] = useState<{ where: string; by: [number, number] } | null>(null);
  const svg = useRef<SVGSVGElement>(null);
  const shell = fit?.outlines[3 - view.across - view.up]; // of what is more than a box
  const width = outer[view.across];
  const height = outer[view.up];

  const move = (body: Placed, across: number, up: number) => {
    const by: [number, number, number] = [0, 0, 0];
    by[view.across] = across;
    by[view.up] = up;
    edit(`Move ${body.name}`, (d) => shiftAll(d, body.where, by));
  };

  const onKey = (body: Placed) => (e: KeyboardEvent) => {
    const by = e.shiftKey ? FINE : STEP;
    const moves: Record<string, [number, number]> = {
      ArrowLeft: [-by, 0],
      ArrowRight: [by, 0],
      ArrowUp: [0, by],
      ArrowDown: [0, -by],
    };
    const found = moves[e.key];
    if (found) move(body, ...found);
    else if (e.key === "Enter" || e.key === " ") onSelect(body.where);
    else return;
    e.preventDefault();
  };

  const pixels = () => (svg.current?.getBoundingClientRect().width ?? 1) / (width + (2 * MARGIN) / scale);
  const { take, handlers } = useDrag<Placed>({
    move: (body, { dx, dy }) => {
      const mm = 1 / pixels();
      setDrag({ where: body.where, by: [snapped(dx * mm), snapped(-dy * mm)] });
    },
    end: (body, kept) => {
      if (kept && drag && (drag.by[0] || drag.by[1])) move(body, ...drag.by);
      setDrag(null);
    },
  });
  const onDown = (body: Placed) => (e: PointerEvent<SVGGElement>) => {
    onSelect(body.where);
    take(e, body);
  };

  const margin = MARGIN / scale;
  const font = 11 / scale;
  // what is nearest to the eye is drawn last
  const depth = 3 - view.across - view.up;
  const nearLast = (a: Placed, b: Placed) =>
    depth === 2 || depth === 0
      ? (a.high[depth] ?? 0) - (b.high[depth] ?? 0)
      : (b.low[depth] ?? 0) - (a.low[depth] ?? 0);
  return (
    <figure>
      <figcaption className="text-soft mb-1 text-sm">{view.name}</figcaption>
      <svg
        ref={svg}
        width={(width + 2 * margin) * scale}
        height={(height + 2 * margin) * scale}
        viewBox={`${-margin} ${-margin} ${width + 2 * margin} ${height + 2 * margin}`}
        className="max-w-full touch-none select-none"
        role="group"
        aria-label={`The case ${view.name.toLowerCase()}, ${AXES[view.across]} to the right, ${AXES[view.up]} upwards`}
      >
        {shell ? (
          shell.map((outline, i) => (
            <path
              key={i}
              d={drawn([outline], view, [0, 0], height)}
              fill={i === 0 ? "color-mix(in srgb, var(--soft) 35%, transparent)" : "var(--paper)"}
              stroke="var(--soft)"
              strokeWidth={1 / scale}
            />
          ))
        ) : (
          <>
            <rect x="0" y="0" width={width} height={height} rx={corner} fill="var(--soft)" opacity="0.35" />
            <rect
              x={left}
              y={over}
              width={Math.max(0, width - left - right)}
              height={Math.max(0, height - over - under)}
              rx={innerCorner}
              fill="var(--paper)"
              stroke="var(--soft)"
              strokeWidth={1 / scale}
            />
          </>
        )}
        {[...(fit?.bodies ?? [])].sort(nearLast).map((body) => {
          const moved = drag?.where === body.where ? drag.by : [0, 0];
          const swelling = (axis: number) => (body.swelling_axis === axis ? body.swelling_mm : 0);
          const x = (body.low[view.across] ?? 0) + (moved[0] ?? 0);
          const w = (body.high[view.across] ?? 0) - (body.low[view.across] ?? 0);
          const h = (body.high[view.up] ?? 0) - (body.low[view.up] ?? 0);
          const y = height - (body.high[view.up] ?? 0) - (moved[1] ?? 0);
          const isSelected = selected === body.where;
          const colour = EDGE[body.status] ?? "var(--soft)";
          const tint = body.where === "/battery" ? "var(--ember)" : colour;
          const fits = Math.floor((w * scale - 6) / 5.8);
          return (
            <g
              key={body.where}
              role="button"
              tabIndex={0}
              aria-label={`${body.name}, ${statusWord(body.status as Status)}`}
              aria-pressed={isSelected}
              data-testid={`body-${view.name}-${body.where}`}
              className="focus-visible:outline-ink cursor-grab outline-offset-0 focus-visible:outline-2"
              onKeyDown={onKey(body)}
              onPointerDown={onDown(body)}
              {...handlers}
            >
              <title>{body.name}</title>
              <path
                d={outlineOf(body, view, moved as [number, number], height) ?? `M${x} ${y}h${w}v${h}h${-w}z`}
                strokeLinejoin="round"
                fill={`color-mix(in srgb, ${tint} ${isSelected ? 45 : 24}%, var(--sheet))`}
                fillOpacity={0.82}
                stroke={isSelected ? "var(--ink)" : colour}
                strokeWidth={(isSelected ? 2 : 1.2) / scale}
              />
              {swelling(view.up) > 0 && (
                <line
                  x1={x}
                  x2={x + w}
                  y1={y + swelling(view.up)}
                  y2={y + swelling(view.up)}
                  stroke="var(--ember)"
                  strokeWidth={1 / scale}
                  strokeDasharray={`${3 / scale} ${2 / scale}`}
                />
              )}
              {fits >= 5 && h * scale >= 13 && (
                <text x={x + 3 / scale} y={y + 11 / scale} fontSize={font} fill="var(--ink)" pointerEvents="none">
                  {body.name.length > fits ? `${body.name.slice(0, fits - 1)}…` : body.name}
                </text>
              )}
            </g>
          );
        })}
        <text x={width / 2} y={height + margin * 0.85} fontSize={font} textAnchor="middle" fill="var(--soft)">
          {AXES[view.across]} {width} mm
        </text>
        <text
          x={-margin * 0.3}
          y={height / 2}
          fontSize={font}
          textAnchor="middle"
          fill="var(--soft)"
          transform={`rotate(-90 ${-margin * 0.3} ${height / 2})`}
        >
          {AXES[view.up]} {height} mm
        </text>
      </svg>
    </figure>
  );
}

const statusWord = (status: Status) =>
  status === "fail" ? "overlaps something" : status === "watch" ? "is too close to something" : "has its clearance";
