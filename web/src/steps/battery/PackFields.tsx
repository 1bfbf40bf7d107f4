// What the pack has been through: its age, its cells' spread, used cells, and the converter of a power bank.
import { useDesign, useOpenDesign } from "../../design/store";
import { Check, Choice, Section } from "../../ui/controls";
import { Quantities } from "../../design/fields/quantities";

const BUILT_FOR = [
  ["power", "power, or not known"],
  ["energy", "much energy"],
] as const;
const CONDITIONS = [
  ["new", "new"],
  ["salvaged", "used before"],
] as const;
const UNMEASURED = { optional: true, placeholder: "not measured" } as const;
const MEASURED = [{ key: "measured_ah", label: "Measured capacity", dimension: "charge", ...UNMEASURED }] as const;
const MEASURED_OHM = [
  { key: "measured_ohm", label: "Measured resistance", dimension: "resistance", ...UNMEASURED },
] as const;
const JOINED = [
  {
    key: "joined_v",
    label: "Differ by, when joined",
    dimension: "voltage",
    optional: true,
    placeholder: "not known",
    hint: "cells side by side",
  },
] as const;
const SPREAD = [
  { key: "spread", label: "Spread from cell to cell", dimension: "share", optional: true, placeholder: "as is usual" },
] as const;
const BANK = [
  { key: "cell_v", label: "Rated at", dimension: "voltage" },
  { key: "output_v", label: "Output", dimension: "voltage" },
  { key: "efficiency", label: "Efficiency", dimension: "share" },
  { key: "idle_a", label: "Idle current", dimension: "current" },
  { key: "auto_shutoff_a", label: "Auto-shutoff below", dimension: "current", hint: "0 A: never" },
  { key: "off_after_s", label: "after", dimension: "time" },
] as const;

export function PackFields() {
  const { battery } = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const { cell } = battery;
  const measured = cell.measured_ah || cell.curve;
  const age = [
    {
      key: "age_years",
      label: measured ? "Years since it was measured" : "Years since it was made",
      dimension: "number",
    },
    { key: "cycles", label: measured ? "Full charges since then" : "Full charges so far", dimension: "number" },
  ] as const;
  const several = battery.series * battery.parallel > 1;
  const ofCell = (key: string, v: number | null, label: string) =>
    edit(label, (d) => Object.assign(d.battery.cell, { [key]: v }));
  const ofBattery = (key: string, v: number | null, label: string) =>
    edit(label, (d) => Object.assign(d.battery, { [key]: v }));
  return (
    <Section title="What it has been through">
      <div className="grid grid-cols-2 gap-2">
        <Quantities of={battery} at="/battery" fields={age} onCommit={ofBattery} />
        <Choice
          label="The cell is"
          value={cell.condition}
          options={CONDITIONS}
          onChange={(v) => edit("Condition", (d) => (d.battery.cell.condition = v))}
        />
        {cell.chemistry === "lithium-ion" && !cell.curve && !cell.bank && (
          <Choice
            label="Built for"
            value={cell.built_for}
            options={BUILT_FOR}
            onChange={(v) => edit("What the cell is built for", (d) => (d.battery.cell.built_for = v))}
          />
        )}
        <Quantities of={cell} at="/battery/cell" fields={MEASURED} onCommit={ofCell} />
        {(cell.condition === "salvaged" || cell.measured_ohm) && (
          <Quantities of={cell} at="/battery/cell" fields={MEASURED_OHM} onCommit={ofCell} />
        )}
        {several && <Quantities of={battery} at="/battery" fields={SPREAD} onCommit={ofBattery} />}
        {battery.parallel > 1 && <Quantities of={battery} at="/battery" fields={JOINED} onCommit={ofBattery} />}
      </div>
      {several && (
        <Check
          label="Cells of different kinds, makes or ages"
          checked={battery.mixed}
          onChange={(v) => edit("Mixed cells", (d) => (d.battery.mixed = v))}
        />
      )}
    </Section>
  );
}

/** The output of a power bank and when it gives up. */
export function BankFields() {
  const { battery } = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const { bank } = battery.cell;
  if (!bank) return null;
  return (
    <Section title="The power bank">
      <div className="grid grid-cols-2 gap-2">
        <Quantities
          of={bank}
          at="/battery/cell/bank"
          fields={BANK}
          onCommit={(key, v, label) => edit(label, (d) => Object.assign(d.battery.cell.bank!, { [key]: v }))}
        />
      </div>
    </Section>
  );
}
