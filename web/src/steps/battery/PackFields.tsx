// What the pack has been through: its age, its cells' spread, used cells, and the converter of a power bank.
import { useDesign, useOpenDesign } from "../../design/store";
import type { Design } from "../../design/types";
import { Check, Choice, Section } from "../../ui/controls";
import { QuantityField } from "../../ui/fields";

type Battery = Design["battery"];
const CONDITIONS = [
  ["new", "new"],
  ["salvaged", "used before"],
] as const;

export function PackFields() {
  const { battery } = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const set = (label: string, work: (b: Battery) => void) => edit(label, (d) => work(d.battery));
  const { cell } = battery;
  const since = cell.measured_ah || cell.curve ? "since it was measured" : "";
  const several = battery.series * battery.parallel > 1;
  return (
    <Section title="What it has been through">
      <div className="grid grid-cols-2 gap-2">
        <QuantityField
          label={since ? `Years ${since}` : "Years since it was made"}
          value={battery.age_years}
          dimension="cost"
          path="/battery/age_years"
          onCommit={(v) => v !== null && set("Age", (b) => (b.age_years = v))}
        />
        <QuantityField
          label={since ? `Full charges ${since}` : "Full charges so far"}
          value={battery.cycles}
          dimension="cost"
          path="/battery/cycles"
          onCommit={(v) => v !== null && set("Full charges", (b) => (b.cycles = v))}
        />
        <Choice
          label="The cell is"
          value={cell.condition}
          options={CONDITIONS}
          onChange={(v) => set("Condition", (b) => (b.cell.condition = v))}
        />
        <QuantityField
          label="Measured capacity"
          value={cell.measured_ah}
          dimension="charge"
          optional
          path="/battery/cell/measured_ah"
          placeholder="not measured"
          onCommit={(v) => set("Measured capacity", (b) => (b.cell.measured_ah = v))}
        />
        {cell.condition === "salvaged" && (
          <QuantityField
            label="Measured resistance"
            value={cell.measured_ohm}
            dimension="resistance"
            optional
            path="/battery/cell/measured_ohm"
            placeholder="not measured"
            onCommit={(v) => set("Measured resistance", (b) => (b.cell.measured_ohm = v))}
          />
        )}
        {several && (
          <QuantityField
            label="Spread from cell to cell"
            value={battery.spread}
            dimension="share"
            optional
            path="/battery/spread"
            placeholder="as is usual"
            onCommit={(v) => set("Spread", (b) => (b.spread = v))}
          />
        )}
      </div>
      {several && (
        <Check
          label="Cells of different kinds, makes or ages"
          checked={battery.mixed}
          onChange={(v) => set("Mixed cells", (b) => (b.mixed = v))}
        />
      )}
    </Section>
  );
}

/** The output of a power bank and when it gives up. */
export function BankFields() {
  const { battery } = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const bank = battery.cell.bank;
  if (!bank) return null;
  const set = (label: string, work: (b: NonNullable<typeof bank>) => void) =>
    edit(label, (d) => work(d.battery.cell.bank!));
  const at = "/battery/cell/bank";
  return (
    <Section title="The power bank">
      <div className="grid grid-cols-2 gap-2">
        <QuantityField
          label="Printed at"
          value={bank.cell_v}
          dimension="voltage"
          path={`${at}/cell_v`}
          onCommit={(v) => v && set("Printed at", (b) => (b.cell_v = v))}
        />
        <QuantityField
          label="Output"
          value={bank.output_v}
          dimension="voltage"
          path={`${at}/output_v`}
          onCommit={(v) => v && set("Output", (b) => (b.output_v = v))}
        />
        <QuantityField
          label="Efficiency"
          value={bank.efficiency}
          dimension="share"
          path={`${at}/efficiency`}
          onCommit={(v) => v && set("Efficiency", (b) => (b.efficiency = v))}
        />
        <QuantityField
          label="Takes for itself"
          value={bank.own_a}
          dimension="current"
          path={`${at}/own_a`}
          onCommit={(v) => v !== null && set("Own draw", (b) => (b.own_a = v))}
        />
        <QuantityField
          label="Switches off below"
          hint="0 A: never"
          value={bank.least_a}
          dimension="current"
          path={`${at}/least_a`}
          onCommit={(v) => v !== null && set("Least load", (b) => (b.least_a = v))}
        />
        <QuantityField
          label="after"
          value={bank.off_after_s}
          dimension="time"
          path={`${at}/off_after_s`}
          onCommit={(v) => v && set("Switches off after", (b) => (b.off_after_s = v))}
        />
      </div>
    </Section>
  );
}
