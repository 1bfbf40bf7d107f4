// The tree as a picture that is edited in place: sources on the left, stages in the order of the current, rails on the
// right. A box dragged onto another one hangs on it from then on; arrows walk along the lines. The width of a line
// follows the mean power in it.
import { useMemo, useRef, useState, type CSSProperties, type KeyboardEvent } from "react";
import { removeSource, removeStage } from "../../design/edits";
import { actions, useOpenDesign, useShown } from "../../design/store";
import { layout, neighbour, type Node } from "./layout";
import { PAPER_PX } from "../../ui/chart";
import { useDrag } from "../../ui/drag";
import { feed, hangsOn, type SupplySelection } from "./selection";

const WIDTH = 184;
const HEIGHT = 76;
const GAP_X = 44;
const GAP_Y = 14;
const DRAGGED_FROM = 6; // pixels

const LOOKS: Record<Node["kind"], string> = {
  battery: "rounded-[18px] border-2 px-3",
  source: "rounded-[18px] border-2 border-dashed px-3",
  stage: "rounded-md px-3",
  rail: "rounded-full px-5",
};

type Drag = { id: string; kind: Node["kind"]; dx: number; dy: number; over: string | null };

export function SupplyTree({
  mode,
  selected,
  onSelect,
  onAdd,
}: {
  mode: string | null;
  selected: SupplySelection | null;
  onSelect: (s: SupplySelection | null) => void;
  onAdd: (what: "stage" | "rail") => void;
}) {
  const design = useOpenDesign();
  const shown = useShown();
  const nodes = useMemo(() => layout(design, shown, mode), [design, shown, mode]);
  const [drag, setDrag] = useState<Drag | null>(null);
  const holder = useRef<HTMLDivElement>(null);
  const columns = Math.max(...nodes.map((n) => n.column)) + 1;
  const rows = Math.max(...nodes.map((n) => n.row)) + 1;
  const width = columns * (WIDTH + GAP_X) - GAP_X;
  const height = rows * (HEIGHT + GAP_Y) - GAP_Y;
  const x = (n: Node) => n.column * (WIDTH + GAP_X);
  const y = (n: Node) => n.row * (HEIGHT + GAP_Y);
  const most = Math.max(...nodes.map((n) => n.watts), 1e-12);
  const focused = nodes.find((n) => n.id === selected?.id && n.kind === selected.kind) ?? nodes.at(-1);

  const mayFeed = (on: Node, what: { id: string; kind: Node["kind"] }) =>
    on.kind !== "rail" && on.id !== what.id && !(what.kind === "stage" && hangsOn(design, on.id, what.id));
  const choose = (n: Node) => {
    onSelect({ kind: n.kind, id: n.id });
    holder.current?.querySelector<HTMLElement>(`[data-node="${n.kind} ${n.id}"]`)?.focus();
  };
  const onKeyDown = (e: KeyboardEvent, n: Node) => {
    const next = neighbour(nodes, n, e.key);
    if (next) choose(next);
    else if (e.key === "Insert" || (e.key === "+" && n.kind !== "rail")) onAdd("stage");
    else if (e.key === "Delete" && n.kind === "stage") actions.edit(`Remove ${n.name}`, (d) => removeStage(d, n.id));
    else if (e.key === "Delete" && n.kind === "source") actions.edit(`Remove ${n.name}`, (d) => removeSource(d, n.id));
    else return;
    e.preventDefault();
  };

  const { take, handlers } = useDrag<Node>({
    from: DRAGGED_FROM,
    move: (n, { dx, dy }, at) => {
      const box = holder.current!.getBoundingClientRect();
      const [px, py] = [at.clientX - box.left, at.clientY - box.top];
      const over = nodes.find(
        (o) => mayFeed(o, n) && px >= x(o) && px <= x(o) + WIDTH && py >= y(o) && py <= y(o) + HEIGHT,
      );
      setDrag({ id: n.id, kind: n.kind, dx, dy, over: over?.id ?? null });
    },
    end: (n, kept) => {
      const target = kept && drag?.over && nodes.find((o) => o.id === drag.over && o.kind !== "rail");
      if (target) actions.edit(`Feed ${n.name} from ${target.name}`, (d) => feed(d, n, target.id));
      setDrag(null);
    },
  });

  return (
    <div className="relative overflow-x-auto p-1">
      <div
        ref={holder}
        className="relative mx-auto print:[zoom:var(--on-paper)]"
        style={{ width, height, "--on-paper": Math.min(1, PAPER_PX / width) } as CSSProperties}
        role="group"
        aria-label="The supply tree"
      >
        <svg width={width} height={height} className="absolute inset-0" aria-hidden>
          {nodes.flatMap((n) =>
            n.from.map((id, i) => {
              const source = nodes.find((s) => s.id === id && s.kind !== "rail");
              if (!source) return null;
              const [x1, y1, x2, y2] = [x(source) + WIDTH, y(source) + HEIGHT / 2, x(n), y(n) + HEIGHT / 2];
              const bend = x1 + Math.max(GAP_X / 2, (x2 - x1) / 2);
              return (
                <path
                  key={`${n.kind} ${n.id} ${i}`}
                  d={`M${x1} ${y1} C${bend} ${y1} ${x2 - GAP_X / 2} ${y2} ${x2} ${y2}`}
                  fill="none"
                  stroke={n.watts > 0 ? "var(--ember)" : "var(--line)"}
                  strokeDasharray={n.off ? "4 4" : undefined}
                  strokeWidth={1.5 + 9 * Math.sqrt(n.watts / most)}
                  opacity="0.75"
                />
              );
            }),
          )}
        </svg>
        {nodes.map((n) => {
          const isSelected = selected?.id === n.id && selected.kind === n.kind;
          const moving = drag?.id === n.id && drag.kind === n.kind;
          const target = drag?.over === n.id && n.kind !== "rail";
          return (
            <button
              key={`${n.kind} ${n.id}`}
              data-node={`${n.kind} ${n.id}`}
              type="button"
              aria-pressed={isSelected}
              tabIndex={n === focused ? 0 : -1}
              onClick={() => onSelect({ kind: n.kind, id: n.id })}
              onKeyDown={(e) => onKeyDown(e, n)}
              onPointerDown={(e) => (n.kind === "stage" || n.kind === "rail") && take(e, n)}
              {...handlers}
              className={`bg-paper hover:border-ink absolute touch-none border py-1.5 text-left ${LOOKS[n.kind]} ${isSelected ? "border-ink outline-ink outline-2" : "border-line"} ${target ? "outline-ember outline-3" : ""} ${n.off ? "text-soft border-dashed" : ""}`}
              style={{
                left: x(n),
                top: y(n),
                width: WIDTH,
                height: HEIGHT,
                transform: moving ? `translate(${drag.dx}px, ${drag.dy}px)` : undefined,
                zIndex: moving ? 10 : undefined,
                pointerEvents: moving ? "auto" : undefined,
              }}
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
