// A burst: phases with their seconds, repeated every period, drawn to scale.
import { Plus, Trash2 } from "lucide-react";
import { setUse } from "../../design/edits";
import { useDesign } from "../../design/store";
import type { Part, Use } from "../../design/types";
import { Button, Choice, IconButton } from "../../ui/controls";
import { QuantityField } from "../../ui/fields";

/** [start, length] of each phase in seconds. */
function spans(burst: Use["burst"]): [number, number][] {
  let from = 0;
  return burst.map(({ seconds }) => {
    from += seconds;
    return [from - seconds, seconds];
  });
}

export function BurstEditor({ part, mode, use, path }: { part: Part; mode: string; use: Use; path: string }) {
  const edit = useDesign((s) => s.edit);
  const states = part.states.map((s) => [s.name, s.name] as const);
  const set = (label: string, change: Partial<Use>) => edit(label, (d) => setUse(d, mode, part.id, change));
  if (use.burst.length === 0)
    return (
      <Button
        kind="quiet"
        onClick={() =>
          set("Make it a burst", {
            burst: [{ state: use.state, seconds: 1 }],
            period_s: 10,
            rest: use.rest ?? part.states[0]?.name ?? null,
          })
        }
      >
        Make it a burst
      </Button>
    );
  const period = use.period_s ?? 1;
  return (
    <div className="border-line space-y-2 rounded-md border p-2">
      <svg viewBox="0 0 280 34" className="w-full" role="img" aria-label="The burst over its period">
        <rect x="0" y="12" width="280" height="18" rx="4" fill="var(--well)" />
        {spans(use.burst).map(([from, seconds], i) => {
          const x = (from / period) * 280;
          const width = Math.max(2, (seconds / period) * 280);
          return (
            <rect
              key={i}
              x={x}
              y="12"
              width={width}
              height="18"
              rx="2"
              fill="var(--ember)"
              opacity={1 - (i % 2) * 0.35}
            />
          );
        })}
      </svg>
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
          onClick={() => set("Add a phase", { burst: [...use.burst, { state: use.state, seconds: period / 100 }] })}
        >
          <Plus size={14} aria-hidden /> Phase
        </Button>
        <QuantityField
          label="repeats every"
          value={use.period_s}
          dimension="time"
          path={path}
          onCommit={(v) => v && set("Period", { period_s: v })}
        />
      </div>
    </div>
  );
}
