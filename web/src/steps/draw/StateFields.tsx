// One state of a part: what it draws, how sure that is, and how it behaves.
import { Trash2 } from "lucide-react";
import type { State } from "../../design/types";
import { Choice, IconButton } from "../../ui/controls";
import { QuantityField, TextField, type Span } from "../../design/fields/fields";
import { PROVENANCES } from "./provenance";

const RANGES = {
  current: ["current_a", "current"],
  power: ["power_w", "power"],
  resistor: ["resistance_ohm", "resistance"],
  led: ["resistance_ohm", "resistance"],
} as const;

const BEHAVIOURS = [
  ["current", "constant current"],
  ["power", "constant power"],
  ["resistor", "a resistor"],
  ["led", "an LED and its resistor"],
] as const;

export function StateFields({
  state,
  path,
  removable,
  rename,
  change,
  remove,
}: {
  state: State;
  path: string;
  removable: boolean;
  rename: (to: string) => void;
  change: (label: string, work: (draft: State) => void) => void;
  remove: () => void;
}) {
  const [key, dimension] = RANGES[state.draw.behaviour];
  const span = (state.draw as unknown as Record<string, { typical: number; min?: number | null; max?: number | null }>)[
    key
  ]!;
  const set = (which: "min" | "typical" | "max") => (v: number | null) =>
    change(`${state.name}: ${which}`, (s) => {
      const target = (s.draw as unknown as Record<string, Record<string, number | null>>)[key]!;
      target[which] = which === "typical" ? (v ?? 0) : v;
    });
  const whole = (typed: Span) =>
    change(`${state.name}: a range`, (s) => {
      Object.assign((s.draw as unknown as Record<string, Span>)[key]!, typed);
    });
  const behave = (behaviour: State["draw"]["behaviour"]) =>
    change("Behaviour", (s) => {
      const first = { min: null, max: null };
      if (behaviour === "current") s.draw = { behaviour, current_a: { typical: 0.001, ...first } };
      else if (behaviour === "power") s.draw = { behaviour, power_w: { typical: 0.003, ...first } };
      else if (behaviour === "resistor") s.draw = { behaviour, resistance_ohm: { typical: 10000, ...first } };
      else s.draw = { behaviour, forward_v: 2, resistance_ohm: { typical: 1000, ...first } };
    });
  return (
    <div className="border-line space-y-1.5 rounded-md border p-2">
      <div className="flex items-center gap-1.5">
        <TextField bare label="Name of the state" value={state.name} required onCommit={rename} />
        <Choice
          bare
          label={`${state.name}: source`}
          value={state.provenance}
          options={PROVENANCES}
          onChange={(v) => change("Source", (s) => (s.provenance = v))}
        />
        {removable && (
          <IconButton label={`Remove ${state.name}`} onClick={remove}>
            <Trash2 size={14} />
          </IconButton>
        )}
      </div>
      <div className="grid grid-cols-3 gap-1.5">
        <QuantityField
          label="Min"
          value={span.min}
          dimension={dimension}
          optional
          placeholder="usual"
          path={`${path}/draw/${key}/min`}
          onCommit={set("min")}
          onSpan={whole}
        />
        <QuantityField
          label="Typical"
          value={span.typical}
          dimension={dimension}
          path={`${path}/draw/${key}/typical`}
          onCommit={set("typical")}
          onSpan={whole}
        />
        <QuantityField
          label="Max"
          value={span.max}
          dimension={dimension}
          optional
          placeholder="usual"
          path={`${path}/draw/${key}/max`}
          onCommit={set("max")}
          onSpan={whole}
        />
      </div>
      <TextField
        bare
        label={`${state.name}: where the figure is from`}
        max={200}
        path={`${path}/source`}
        placeholder="from which datasheet, or measured when, with what"
        value={state.source}
        onCommit={(text) => change("Where it is from", (s) => (s.source = text))}
      />
      <div className="grid grid-cols-[1.6fr_1fr] gap-1.5">
        <Choice
          bare
          label={`${state.name}: behaviour`}
          value={state.draw.behaviour}
          options={BEHAVIOURS}
          onChange={behave}
        />
        {state.draw.behaviour === "led" && (
          <QuantityField
            bare
            label="Forward voltage"
            value={state.draw.forward_v}
            dimension="voltage"
            onCommit={(v) =>
              change("Forward voltage", (s) => s.draw.behaviour === "led" && (s.draw.forward_v = v ?? 2))
            }
          />
        )}
      </div>
    </div>
  );
}
