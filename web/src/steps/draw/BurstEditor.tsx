// A burst on its time axis: boundaries between phases are dragged, or moved by the arrow keys, or typed in seconds.
import { Explain } from "../../ui/terms";
import { Plus, Trash2 } from "lucide-react";
import { useState, type KeyboardEvent, type PointerEvent } from "react";
import { setUse } from "../../design/edits";
import { useDesign } from "../../design/store";
import type { Part, Use } from "../../design/types";
import { useDrag } from "../../ui/drag";
import { Button, Choice, IconButton } from "../../ui/controls";
import { QuantityField } from "../../design/fields/fields";
import { show } from "../../ui/format";

type Burst = Use["burst"];
type Set = (label: string, change: Partial<Use>) => void;

const WIDTH = 280;
const SHORTEST = 0.001; // s, by dragging

const total = (burst: Burst) => burst.reduce((sum, b) => sum + b.seconds, 0);

/** Seconds to three digits, so that a drag leaves figures that one would type. */
const tidy = (seconds: number) => Number(Math.max(seconds, SHORTEST).toPrecision(3));

export function BurstEditor({ part, mode, use, path }: { part: Part; mode: string; use: Use; path: string }) {
  const edit = useDesign((s) => s.edit);
  const states = part.states.map((s) => [s.name, s.name] as const);
  const set: Set = (label, change) => edit(label, (d) => setUse(d, mode, part.id, change));
  const rest = use.rest ?? part.states[0]?.name ?? null;
  const shapes = part.bursts.map((b) => (
    <Button
      key={b.name}
      kind="quiet"
      onClick={() =>
        set(b.name, {
          burst: structuredClone(b.phases),
          state: b.phases[0]?.state ?? use.state,
          period_s: Math.max(use.period_s ?? 0, 10 * total(b.phases)),
          rest,
        })
      }
    >
      {b.name}
    </Button>
  ));
  if (use.burst.length === 0)
    return (
      <div className="flex flex-wrap items-center gap-1">
        <Button
          kind="quiet"
          onClick={() => set("Make it a burst", { burst: [{ state: use.state, seconds: 1 }], period_s: 10, rest })}
        >
          Make it a burst
        </Button>
        <Explain label="Make it a burst" field="make-it-a-burst" />
        {shapes}
      </div>
    );
  const period = use.period_s ?? 1;
  return (
    <div className="border-line space-y-2 rounded-md border p-2">
      <Axis burst={use.burst} period={period} set={set} />
      {use.burst.map((phase, i) => (
        <div key={i} className="grid grid-cols-[1.3fr_1fr_auto] items-center gap-1.5">
          <Choice
            bare
            label={`Phase ${i + 1}: state`}
            value={phase.state}
            options={states}
            onChange={(state) => set("Phase", { burst: use.burst.map((b, j) => (j === i ? { ...b, state } : b)) })}
          />
          <QuantityField
            bare
            label={`Phase ${i + 1}: time`}
            value={phase.seconds}
            dimension="time"
            path={`${path}/burst/${i}/seconds`}
            onCommit={(v) =>
              v && set("Phase", { burst: use.burst.map((b, j) => (j === i ? { ...b, seconds: v } : b)) })
            }
          />
          <IconButton
            label={`Remove phase ${i + 1}`}
            onClick={() => {
              const burst = use.burst.filter((_, j) => j !== i);
              set("Remove a phase", burst.length ? { burst } : { burst, period_s: null });
            }}
          >
            <Trash2 size={14} />
          </IconButton>
        </div>
      ))}
      <div className="grid grid-cols-[1.3fr_1fr_auto] items-end gap-1.5">
        <Button
          kind="quiet"
          onClick={() =>
            set("Add a phase", {
              burst: [...use.burst, { state: use.state, seconds: tidy((period - total(use.burst)) / 4) }],
            })
          }
        >
          <Plus size={14} aria-hidden /> Phase
        </Button>
        <QuantityField
          label="repeats every"
          value={use.period_s}
          dimension="time"
          path={path}
          positive
          onCommit={(v) => v !== null && set("Period", { period_s: v })}
        />
      </div>
      {shapes.length > 0 && (
        <div className="flex flex-wrap items-center gap-1 text-sm">
          <span className="text-soft">usual:</span>
          {shapes}
        </div>
      )}
    </div>
  );
}

/** The burst drawn to scale; where it is short against its period, the axis shows only the burst. */
function Axis({ burst, period, set }: { burst: Burst; period: number; set: Set }) {
  const [dragged, setDragged] = useState<Burst | null>(null);
  const shown = dragged ?? burst;
  const busy = total(burst);
  const whole = busy < period / 5 ? Math.min(period, busy * 1.6) : period;
  const x = (seconds: number) => (Math.min(seconds, whole) / whole) * WIDTH;
  const withPhase = (index: number, seconds: number): Burst => {
    const room = period - (total(burst) - (burst[index]?.seconds ?? 0));
    return burst.map((b, i) => (i === index ? { ...b, seconds: tidy(Math.min(seconds, room)) } : b));
  };
  const { take, handlers } = useDrag<{ index: number; seconds: number; scale: number }>({
    move: (g, { dx }) => setDragged(withPhase(g.index, g.seconds + dx * g.scale)),
    end: (_, kept) => {
      if (kept && dragged) set("Drag a phase", { burst: dragged });
      setDragged(null);
    },
  });
  const down = (e: PointerEvent<SVGGElement>, index: number) => {
    const box = e.currentTarget.ownerSVGElement!.getBoundingClientRect();
    take(e, { index, seconds: burst[index]!.seconds, scale: whole / box.width });
  };
  const onKeyDown = (e: KeyboardEvent, index: number) => {
    const step = { ArrowLeft: -1, ArrowRight: 1, ArrowDown: -1, ArrowUp: 1 }[e.key];
    if (!step) return;
    set("Phase", { burst: withPhase(index, burst[index]!.seconds + (step * whole) / (e.shiftKey ? 20 : 100)) });
    e.preventDefault();
  };
  const ends = shown.map((_, i) => total(shown.slice(0, i + 1)));
  return (
    <svg
      viewBox={`0 0 ${WIDTH} 58`}
      className="w-full touch-none overflow-visible"
      role="group"
      aria-label="The burst over time"
    >
      <rect x="0" y="8" width={WIDTH} height="28" rx="4" fill="var(--well)" />
      {shown.map((phase, i) => (
        <g key={i}>
          <rect
            x={x(ends[i]! - phase.seconds)}
            y="8"
            width={Math.max(2, x(ends[i]!) - x(ends[i]! - phase.seconds))}
            height="28"
            fill="var(--ember)"
            opacity={i % 2 ? 0.55 : 0.85}
          >
            <title>{`${phase.state}: ${show(phase.seconds, "s")}`}</title>
          </rect>
        </g>
      ))}
      {shown.map((phase, i) => (
        <g
          key={i}
          role="slider"
          tabIndex={0}
          aria-label={`End of phase ${i + 1}, ${phase.state}`}
          aria-valuenow={phase.seconds}
          aria-valuemin={SHORTEST}
          aria-valuemax={period}
          aria-valuetext={show(phase.seconds, "s")}
          className="cursor-ew-resize"
          onPointerDown={(e) => down(e, i)}
          {...handlers}
          onKeyDown={(e) => onKeyDown(e, i)}
        >
          <rect x={x(ends[i]!) - 12} y="0" width="24" height="44" fill="transparent" />
          <rect x={x(ends[i]!) - 2.5} y="4" width="5" height="36" rx="2.500" fill="var(--ink)" />
        </g>
      ))}
      <text x="0" y="52" fontSize="11" fill="var(--soft)">
        0
      </text>
      <text x={WIDTH} y="52" fontSize="11" textAnchor="end" fill="var(--soft)">
        {whole < period ? `${show(whole, "s")}, of ${show(period, "s")}` : show(period, "s")}
      </text>
    </svg>
  );
}
