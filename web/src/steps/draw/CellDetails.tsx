// Beside the grid: the selected cell and its part, every figure of it.
import { Trash2 } from "lucide-react";
import { removePart, renameState, setUse } from "../../design/edits";
import { useDesign, useOpenDesign } from "../../design/store";
import type { Part, State } from "../../design/types";
import { Button, Check, Choice, IconButton } from "../../ui/controls";
import { QuantityField, SizeField, TextField } from "../../ui/fields";
import { BurstEditor } from "./BurstEditor";
import { PROVENANCES } from "./provenance";

const KINDS = [
  "controller", "radio", "display", "sensor", "storage", "sound", "light", "motor", "lamp", "interface", "other",
] as const; // prettier-ignore

export function CellDetails({ part: partId, mode: modeId }: { part: string; mode: string }) {
  const design = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const p = design.parts.findIndex((x) => x.id === partId);
  const m = design.modes.findIndex((x) => x.id === modeId);
  const part = design.parts[p];
  const mode = design.modes[m];
  if (!part || !mode) return null;
  const u = mode.uses.findIndex((x) => x.part === partId);
  const use = mode.uses[u];
  const states = part.states.map((s) => [s.name, s.name] as const);
  const change = (label: string, work: (draft: Part) => void) =>
    edit(label, (d) => {
      const found = d.parts.find((x) => x.id === partId);
      if (found) work(found);
    });
  return (
    <div className="space-y-5">
      <section aria-label="Cell" className="space-y-2">
        <h2 className="text-lg leading-snug">
          {part.name} <span className="text-soft text-base font-normal">while {mode.name.toLowerCase()}</span>
        </h2>
        <div className="grid grid-cols-2 gap-2">
          <Choice
            label="State"
            value={use && use.burst.length === 0 ? use.state : use ? "(burst)" : "(nothing)"}
            options={[
              ["(nothing)", "draws nothing"],
              ...(use?.burst.length ? ([["(burst)", "a burst"]] as const) : []),
              ...states,
            ]}
            onChange={(state) =>
              edit(`${part.name}: ${state}`, (d) =>
                setUse(
                  d,
                  modeId,
                  partId,
                  state === "(nothing)" ? null : state === "(burst)" ? {} : { state, burst: [], period_s: null },
                ),
              )
            }
          />
          {use && use.burst.length === 0 && (
            <QuantityField
              label="Share of the mode"
              value={use.duty}
              dimension="share"
              path={`/modes/${m}/uses/${u}/duty`}
              onCommit={(duty) => edit("Duty", (d) => setUse(d, modeId, partId, { duty: duty ?? 1 }))}
            />
          )}
        </div>
        {use && (use.duty < 1 || use.burst.length > 0) && (
          <Choice
            label="Else"
            value={use.rest ?? "(nothing)"}
            options={[["(nothing)", "draws nothing"], ...states]}
            onChange={(rest) =>
              edit("State in between", (d) => setUse(d, modeId, partId, { rest: rest === "(nothing)" ? null : rest }))
            }
          />
        )}
        {use && <BurstEditor part={part} mode={modeId} use={use} path={`/modes/${m}/uses/${u}`} />}
      </section>

      <section aria-label="States" className="space-y-3">
        <div className="flex items-center justify-between">
          <h3 className="text-base">Its states</h3>
          <Button
            kind="quiet"
            onClick={() =>
              change("Add a state", (x) =>
                x.states.push({
                  name: nextName(x.states, "new state"),
                  draw: { behaviour: "current", current_a: { typical: 0.001, least: null, most: null } },
                  provenance: "guess",
                }),
              )
            }
          >
            Add a state
          </Button>
        </div>
        {part.states.map((state, i) => (
          <StateFields
            key={state.name}
            state={state}
            path={`/parts/${p}/states/${i}`}
            removable={part.states.length > 1 && !isUsed(design, partId, state.name)}
            rename={(to) => edit("Rename a state", (d) => renameState(d, partId, state.name, to))}
            change={(label, work) => change(label, (x) => x.states[i] && work(x.states[i]))}
            remove={() => change("Remove a state", (x) => x.states.splice(i, 1))}
          />
        ))}
      </section>

      <section aria-label="Part" className="space-y-2">
        <h3 className="text-base">The part</h3>
        <TextField label="Name" value={part.name} required onCommit={(v) => change("Rename", (x) => (x.name = v))} />
        <div className="grid grid-cols-2 gap-2">
          <Choice
            label="Kind"
            value={part.kind}
            options={KINDS.map((k) => [k, k] as const)}
            onChange={(v) => change("Kind", (x) => (x.kind = v))}
          />
          <Choice
            label="Rail"
            value={part.rail}
            options={design.supply.rails.map((r) => [r.id, r.name] as const)}
            onChange={(v) => change("Rail", (x) => (x.rail = v))}
          />
          <QuantityField
            label="Least supply"
            value={part.supply_min_v}
            dimension="voltage"
            optional
            path={`/parts/${p}/supply_min_v`}
            onCommit={(v) => change("Least supply", (x) => (x.supply_min_v = v))}
          />
          <QuantityField
            label="Absolute maximum"
            value={part.supply_max_v}
            dimension="voltage"
            optional
            path={`/parts/${p}/supply_max_v`}
            onCommit={(v) => change("Absolute maximum", (x) => (x.supply_max_v = v))}
          />
          <QuantityField
            label="Mass of each"
            value={part.mass_g}
            dimension="mass"
            onCommit={(v) => change("Mass", (x) => (x.mass_g = v ?? 0))}
          />
          <QuantityField
            label={`Cost of each, ${design.brief.currency}`}
            value={part.cost}
            dimension="cost"
            onCommit={(v) => change("Cost", (x) => (x.cost = v ?? 0))}
          />
          <CountField value={part.quantity} onCommit={(v) => change("Quantity", (x) => (x.quantity = v))} />
        </div>
        {part.body ? (
          <SizeField
            label="Room it takes"
            value={part.body.size_mm}
            path={`/parts/${p}/body/size_mm`}
            onCommit={(v) => change("Size", (x) => x.body && (x.body.size_mm = v))}
          />
        ) : (
          <Button
            kind="quiet"
            onClick={() =>
              change("Give it a size", (x) => (x.body = { size_mm: [10, 10, 3], position_mm: null, through: null }))
            }
          >
            Give it a size
          </Button>
        )}
        <Check
          label="Came along on a module; nobody chose it"
          checked={part.passenger}
          onChange={(v) => change("Passenger", (x) => (x.passenger = v))}
        />
        <Button onClick={() => edit(`Remove ${part.name}`, (d) => removePart(d, partId))}>
          <Trash2 size={15} aria-hidden /> Remove the part
        </Button>
      </section>
    </div>
  );
}

function CountField({ value, onCommit }: { value: number; onCommit: (v: number) => void }) {
  return (
    <QuantityField
      label="Quantity"
      value={value}
      dimension="cost"
      onCommit={(v) => v !== null && onCommit(Math.max(1, Math.round(v)))}
    />
  );
}

const nextName = (states: State[], wanted: string) => {
  let name = wanted;
  for (let n = 2; states.some((s) => s.name === name); n += 1) name = `${wanted} ${n}`;
  return name;
};

const isUsed = (design: ReturnType<typeof useOpenDesign>, part: string, state: string) =>
  design.modes.some((m) =>
    m.uses.some(
      (u) => u.part === part && (u.state === state || u.rest === state || u.burst.some((b) => b.state === state)),
    ),
  );

const RANGES = {
  current: ["current_a", "current"],
  power: ["power_w", "power"],
  resistor: ["resistance_ohm", "resistance"],
  lamp: ["resistance_ohm", "resistance"],
} as const;

const BEHAVIOURS = [
  ["current", "constant current"],
  ["power", "constant power"],
  ["resistor", "a resistor"],
  ["lamp", "a lamp and its resistor"],
] as const;

function StateFields({
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
  const span = (
    state.draw as unknown as Record<string, { typical: number; least?: number | null; most?: number | null }>
  )[key]!;
  const set = (which: "least" | "typical" | "most") => (v: number | null) =>
    change(`${state.name}: ${which}`, (s) => {
      const target = (s.draw as unknown as Record<string, Record<string, number | null>>)[key]!;
      target[which] = which === "typical" ? (v ?? 0) : v;
    });
  const behave = (behaviour: State["draw"]["behaviour"]) =>
    change("Behaviour", (s) => {
      const first = { least: null, most: null };
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
          label="Least"
          value={span.least}
          dimension={dimension}
          optional
          placeholder="usual"
          path={`${path}/draw/${key}/least`}
          onCommit={set("least")}
        />
        <QuantityField
          label="Typical"
          value={span.typical}
          dimension={dimension}
          path={`${path}/draw/${key}/typical`}
          onCommit={set("typical")}
        />
        <QuantityField
          label="Most"
          value={span.most}
          dimension={dimension}
          optional
          placeholder="usual"
          path={`${path}/draw/${key}/most`}
          onCommit={set("most")}
        />
      </div>
      <div className="grid grid-cols-[1.6fr_1fr] gap-1.5">
        <Choice
          bare
          label={`${state.name}: behaviour`}
          value={state.draw.behaviour}
          options={BEHAVIOURS}
          onChange={behave}
        />
        {state.draw.behaviour === "lamp" && (
          <QuantityField
            bare
            label="Forward voltage"
            value={state.draw.forward_v}
            dimension="voltage"
            onCommit={(v) =>
              change("Forward voltage", (s) => s.draw.behaviour === "lamp" && (s.draw.forward_v = v ?? 2))
            }
          />
        )}
      </div>
    </div>
  );
}
