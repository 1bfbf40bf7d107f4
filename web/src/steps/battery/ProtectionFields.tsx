// What cuts the cells off before they are hurt.
import { USUAL_CUT_V } from "../../design/edits";
import { useDesign, useOpenDesign } from "../../design/store";
import type { Design } from "../../design/types";
import { Button, Check, Section } from "../../ui/controls";
import { Quantities } from "../../design/fields/quantities";

type Protection = NonNullable<Design["battery"]["protection"]>;

const FIELDS = [
  { key: "cut_v_per_cell", label: "Cuts each cell off below", dimension: "voltage", positive: true },
  { key: "overcurrent_a", label: "Trips above", dimension: "current", positive: true },
  { key: "ohm", label: "Its resistance", dimension: "resistance" },
  { key: "own_a", label: "Draws all the time", dimension: "current" },
  { key: "fuse_a", label: "Fuse", dimension: "current", optional: true, placeholder: "none" },
] as const;
const USUAL_OWN_A = 3e-6; // of a circuit for one cell, typical of datasheets
const usual = (design: Design, elsewhere: boolean): Protection => ({
  cut_v_per_cell: USUAL_CUT_V[design.battery.cell.chemistry] ?? design.battery.cell.cutoff_v,
  overcurrent_a: 3,
  wakes_by_charger: false,
  ohm: 0.05,
  own_a: elsewhere ? 0 : USUAL_OWN_A,
  fuse_a: null,
  against_reversal: false,
});

export function ProtectionFields() {
  const { battery, supply, charger } = useOpenDesign();
  const elsewhere =
    supply.stages.find((s) => s.type === "pass" && (s.protects || s.role === "protection"))?.name ??
    (charger?.protects ? charger.name : null);
  const edit = useDesign((s) => s.edit);
  const { protection } = battery;
  const set = (label: string, work: (p: Protection) => void) =>
    edit(label, (d) => {
      if (d.battery.protection) work(d.battery.protection);
    });
  return (
    <Section
      title="Protection"
      aside={
        protection ? (
          <Button onClick={() => edit("Remove the protection", (d) => (d.battery.protection = null))}>Remove</Button>
        ) : (
          <Button
            onClick={() =>
              edit("Add a protection circuit", (d) => (d.battery.protection = usual(d, elsewhere !== null)))
            }
          >
            Add a protection circuit
          </Button>
        )
      }
    >
      {!protection && (
        <p className="text-soft text-[0.9375rem]">
          {elsewhere
            ? `${elsewhere} carries one. Name its thresholds here to hold them against the peaks.`
            : "None is named. Lithium cells need one: under the tape of the pouch, on the charger board, or in the lead."}
        </p>
      )}
      {protection && (
        <>
          <div className="grid grid-cols-2 gap-2">
            <Quantities
              of={protection}
              at="/battery/protection"
              fields={FIELDS}
              onCommit={(key, v, label) => set(label, (p) => Object.assign(p, { [key]: v }))}
            />
          </div>
          <Check
            label="Once cut off, only a charger wakes it"
            checked={protection.wakes_by_charger}
            onChange={(v) => set("How it wakes", (p) => (p.wakes_by_charger = v))}
          />
          <Check
            label="It stands cells put in the wrong way round"
            checked={protection.against_reversal}
            onChange={(v) => set("Reversal", (p) => (p.against_reversal = v))}
          />
        </>
      )}
    </Section>
  );
}
