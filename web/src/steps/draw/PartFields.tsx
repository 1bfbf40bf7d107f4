// The part itself: what it is, what it stands, its peaks, what wakes it, what it costs and the room it takes.
import type { ChangePart } from "./change";
import { Trash2 } from "lucide-react";
import { newBody, removePart } from "../../design/edits";
import { BodySize } from "../../design/fields/BodySize";
import { useDesign, useOpenDesign, useProblemAt } from "../../design/store";
import type { Part } from "../../design/types";
import { KeepButton } from "../../design/fields/catalogue";
import { Button, Check, Choice } from "../../ui/controls";
import { QuantityField, TextField } from "../../design/fields/fields";
import type { Dimension } from "../../ui/reading";
import { Instead } from "./Instead";
import { PinFields } from "./PinFields";
import { WakeFields } from "./WakeFields";

const KINDS = [
  "controller", "radio", "display", "sensor", "storage", "sound", "light", "motor", "led", "interface", "other",
] as const; // prettier-ignore

const SENDS_OUT: readonly string[] = ["light", "led", "sound", "motor", "radio"];

const VOLTAGES = [
  ["supply_min_v", "Minimum supply"],
  ["supply_recommended_max_v", "Recommended maximum"],
  ["supply_absolute_max_v", "Absolute maximum"],
] as const;

export function PartFields({ part, index, change }: { part: Part; index: number; change: ChangePart }) {
  const design = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const path = `/parts/${index}`;
  const problem = useProblemAt(path);
  return (
    <section aria-label="Part" className="space-y-2">
      <h3 className="text-base">The part</h3>
      {problem && (
        <p role="alert" className="text-fail text-sm">
          {problem}
        </p>
      )}
      <TextField label="Name" value={part.name} required onCommit={(v) => change("Rename", (x) => (x.name = v))} />
      <div className="grid grid-cols-2 items-end gap-2">
        <Choice
          label="Kind"
          value={part.kind}
          options={KINDS.map((k) => [k, k === "led" ? "indicator LED" : k] as const)}
          onChange={(v) => change("Kind", (x) => (x.kind = v))}
        />
        <Choice
          label="Rail"
          value={part.rail}
          options={design.supply.rails.map((r) => [r.id, r.name] as const)}
          onChange={(v) => change("Rail", (x) => (x.rail = v))}
        />
        {VOLTAGES.map(([key, label]) => (
          <QuantityField
            key={key}
            label={label}
            value={part[key]}
            dimension="voltage"
            optional
            path={`${path}/${key}`}
            onCommit={(v) => change(label, (x) => (x[key] = v))}
          />
        ))}
        <QuantityField
          label="Quantity"
          value={part.quantity}
          dimension="count"
          positive
          path={`${path}/quantity`}
          onCommit={(v) => v !== null && change("Quantity", (x) => (x.quantity = v))}
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
      </div>
      <Peak part={part} path={path} change={change} />
      {["display", "sound", "light"].includes(part.kind) && (
        <QuantityField
          label="Supply may droop by, before it shows"
          value={part.droop_max}
          dimension="share"
          optional
          placeholder="3 %"
          path={`${path}/droop_max`}
          onCommit={(v) => change("Droop", (x) => (x.droop_max = v))}
        />
      )}
      {(part.kind === "led" || part.kind === "light") && (
        <QuantityField
          label="Brightness per mA"
          value={part.mcd_per_ma}
          dimension="intensity"
          optional
          path={`${path}/mcd_per_ma`}
          onCommit={(v) => change("Brightness", (x) => (x.mcd_per_ma = v))}
        />
      )}
      {SENDS_OUT.includes(part.kind) && (
        <QuantityField
          label="Of its power, stays in it as heat"
          value={part.inside_share}
          dimension="share"
          optional
          placeholder="as is usual"
          path={`${path}/inside_share`}
          onCommit={(v) => change("Heat that stays", (x) => (x.inside_share = v))}
        />
      )}
      {(part.kind === "led" || part.kind === "light") && (
        <QuantityField
          label="Each stands, lasting"
          value={part.rated_a}
          dimension="current"
          optional
          placeholder="not given"
          path={`${path}/rated_a`}
          onCommit={(v) => change("Rated current", (x) => (x.rated_a = v))}
        />
      )}
      {part.kind === "motor" && (
        <Choice
          label="Its kick when switched off"
          value={part.flyback === null || part.flyback === undefined ? "" : part.flyback ? "taken" : "open"}
          options={[
            ["", "not known"],
            ["taken", "a diode or its driver takes it"],
            ["open", "nothing takes it"],
          ]}
          onChange={(v) => change("Flyback diode", (x) => (x.flyback = v === "" ? null : v === "taken"))}
        />
      )}
      {part.kind === "controller" && <OwnRegulator part={part} path={path} change={change} />}
      <PinFields part={part} change={change} />
      {part.kind === "controller" && <WakeFields part={part} change={change} />}
      {part.divider && <DividerFields part={part} path={path} change={change} />}
      {part.body ? (
        <BodySize
          body={part.body}
          path={`${path}/body`}
          label={part.quantity > 1 ? "Room each takes" : "Room it takes"}
          change={(label, work) => change(label, (x) => x.body && work(x.body))}
        />
      ) : (
        <Button kind="quiet" onClick={() => change("Give it a size", (x) => (x.body = newBody([10, 10, 3])))}>
          Give it a size
        </Button>
      )}
      <Check
        label="Can be put to rest: a sleep command, an enable pin"
        checked={part.switchable}
        onChange={(v) => change("Switchable", (x) => (x.switchable = v))}
      />
      <Check
        label="Parasitic load: came along on a module, nobody chose it"
        checked={part.parasitic}
        onChange={(v) => change("Parasitic load", (x) => (x.parasitic = v))}
      />
      <Check
        label="What is read is its resistance: a ladder, a thermistor"
        checked={part.analogue}
        onChange={(v) => change("Read by its resistance", (x) => (x.analogue = v))}
      />
      <Check
        label="It hangs outside the case"
        checked={part.outside}
        onChange={(v) => change("Hangs outside", (x) => (x.outside = v))}
      />
      {part.outside && (
        <Choice
          label="Its wire goes through the wall by"
          value={part.way ?? ""}
          options={[
            ["", "nothing yet"],
            ...design.parts.filter((p) => p.id !== part.id && p.body?.through).map((p) => [p.id, p.name] as const),
          ]}
          onChange={(v) => change("Way through the wall", (x) => (x.way = v || null))}
        />
      )}
      <Check
        label="The user plugs it in"
        checked={part.plugged_by_user}
        onChange={(v) => change("Plugged in by the user", (x) => (x.plugged_by_user = v))}
      />
      <Instead part={part} change={change} />
      <div className="flex flex-wrap gap-2">
        <KeepButton kind="part" item={part} />
        <Button onClick={() => edit(`Remove ${part.name}`, (d) => removePart(d, part.id))}>
          <Trash2 size={15} aria-hidden /> Remove the part
        </Button>
      </div>
    </section>
  );
}

/** What a board makes its own voltage with. */
function OwnRegulator({ part, path, change }: { part: Part; path: string; change: ChangePart }) {
  const own = part.regulator;
  return (
    <div className="grid grid-cols-2 items-end gap-2">
      <Choice
        label="Its own regulator"
        value={own?.kind ?? ""}
        options={[
          ["", "none, or not known"],
          ["linear", "linear"],
          ["switching", "switching"],
        ]}
        onChange={(v) =>
          change("Own regulator", (x) => {
            x.regulator = v ? { output_v: 3.3, dropout_v: 0.3, quiescent_a: 0, ...x.regulator, kind: v } : null;
          })
        }
      />
      {own && (
        <QuantityField
          label="makes"
          value={own.output_v}
          dimension="voltage"
          positive
          path={`${path}/regulator/output_v`}
          onCommit={(v) =>
            v !== null && change("Own regulator makes", (x) => x.regulator && (x.regulator.output_v = v))
          }
        />
      )}
    </div>
  );
}

function Peak({ part, path, change }: { part: Part; path: string; change: ChangePart }) {
  const peak = part.peak;
  const set = (key: "current_a" | "seconds", v: number) =>
    change("Short peak", (x) => (x.peak = { current_a: 0.1, seconds: 0.001, state: null, ...x.peak, [key]: v }));
  return (
    <div className="grid grid-cols-2 items-end gap-2">
      <QuantityField
        label="Short peak above that"
        value={peak?.current_a ?? null}
        dimension="current"
        optional
        placeholder="none"
        path={`${path}/peak/current_a`}
        onCommit={(v) => (v ? set("current_a", v) : change("No peak", (x) => (x.peak = null)))}
      />
      {peak && (
        <QuantityField
          label="for"
          value={peak.seconds}
          dimension="time"
          path={`${path}/peak/seconds`}
          positive
          onCommit={(v) => v !== null && set("seconds", v)}
        />
      )}
      {peak && (
        <Choice
          label="comes in"
          value={peak.state ?? ""}
          options={[["", "any state but the calmest"], ...part.states.map((s) => [s.name, s.name] as const)]}
          onChange={(v) => change("State of the peak", (x) => x.peak && (x.peak.state = v || null))}
        />
      )}
    </div>
  );
}

const DIVIDER: [key: "upper_ohm" | "lower_ohm" | "hold_f", label: string, dimension: Dimension][] = [
  ["upper_ohm", "Upper resistor", "resistance"],
  ["lower_ohm", "Lower resistor", "resistance"],
  ["hold_f", "Hold capacitor", "capacitance"],
];

function DividerFields({ part, path, change }: { part: Part; path: string; change: ChangePart }) {
  const design = useOpenDesign();
  const divider = part.divider;
  if (!divider) return null;
  const set = (key: (typeof DIVIDER)[number][0], v: number) =>
    change("Divider", (x) => {
      if (!x.divider) return;
      x.divider[key] = v;
      if (key === "hold_f") return;
      for (const state of x.states)
        if (state.draw.behaviour === "resistor")
          state.draw.resistance_ohm = { typical: x.divider.upper_ohm + x.divider.lower_ohm, min: null, max: null };
    });
  return (
    <fieldset className="border-line space-y-2 rounded-md border p-2">
      <legend className="px-1 text-sm">Measuring divider</legend>
      <div className="grid grid-cols-3 items-end gap-2">
        {DIVIDER.map(([key, label, dimension]) => (
          <QuantityField
            key={key}
            label={label}
            value={divider[key]}
            dimension={dimension}
            path={`${path}/divider/${key}`}
            onCommit={(v) => v !== null && set(key, v)}
          />
        ))}
      </div>
      <Choice
        label="Read by"
        value={divider.reader ?? ""}
        options={[
          ["", "nobody yet"],
          ...design.parts.filter((p) => p.id !== part.id).map((p) => [p.id, p.name] as const),
        ]}
        onChange={(v) => change("Read by", (x) => x.divider && (x.divider.reader = v || null))}
      />
      <Check
        label="Gated: connected only for a reading"
        checked={divider.gated}
        onChange={(v) => change("Gated", (x) => x.divider && (x.divider.gated = v))}
      />
    </fieldset>
  );
}
