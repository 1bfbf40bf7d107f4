// Battery: which cell, and what it really gives here.
import { useState } from "react";
import { StepPage } from "../../shell/StepPage";
import { fitPack, setChemistry, takeCell } from "../../design/edits";
import { useDesign, useOpenDesign, useShown } from "../../design/store";
import type { Design } from "../../design/types";
import { OwnEntries } from "../../design/fields/OwnEntries";
import { CatalogueDialog, KeepCell } from "../../design/fields/catalogue";
import { Button, Choice, Section } from "../../ui/controls";
import { TextField } from "../../design/fields/fields";
import { FigureButton } from "../../design/fields/figure";
import { show } from "../../ui/format";
import { Quantities } from "../../design/fields/quantities";
import { Row } from "../../ui/row";
import { CapacitySteps } from "./CapacitySteps";
import { Cautions } from "./Cautions";
import { CellAnswers } from "./CellAnswers";
import { CheckedCell } from "./CheckedCell";
import { DatasheetCell } from "./DatasheetCell";
import { MeasuredCell } from "./MeasuredCell";
import { CHEMISTRIES, FORMS } from "./names";
import { BankFields, PackFields } from "./PackFields";
import { ProtectionFields } from "./ProtectionFields";

const FIGURES = [
  { key: "capacity_ah", label: "Rated capacity", dimension: "charge" },
  { key: "resistance_ohm", label: "Resistance", dimension: "resistance" },
  { key: "cutoff_v", label: "Cut-off", dimension: "voltage" },
  { key: "discharge_max_a", label: "Max discharge current", dimension: "current" },
  { key: "charge_max_a", label: "Max charge current", dimension: "current", optional: true },
  { key: "full_v", label: "Charged up to", dimension: "voltage", optional: true, placeholder: "as is usual" },
  { key: "mass_g", label: "Mass", dimension: "mass" },
] as const;
const COUNTS = [
  { key: "series", label: "In series", dimension: "count", positive: true },
  { key: "parallel", label: "In parallel", dimension: "count", positive: true },
] as const;

export function Battery() {
  const design = useOpenDesign();
  const shown = useShown();
  const edit = useDesign((s) => s.edit);
  const [picking, setPicking] = useState(false);
  const { battery } = design;
  const { cell } = battery;
  const set = (label: string, work: (b: Design["battery"]) => void) => edit(label, (d) => work(d.battery));
  return (
    <StepPage step="battery" details={shown && <Cautions cautions={shown.battery.cautions} />}>
      <div className="grid gap-4 xl:grid-cols-2">
        <div className="space-y-4">
          <Section
            title="The cell"
            aside={
              <>
                <CellAnswers />
                <DatasheetCell />
                <Button onClick={() => setPicking(true)}>From the catalogue</Button>
              </>
            }
          >
            <div className="grid grid-cols-2 gap-2">
              <div className="col-span-2">
                <TextField
                  label="Name"
                  value={cell.name}
                  required
                  onCommit={(v) => set("Rename", (b) => (b.cell.name = v))}
                />
              </div>
              <Choice
                label="Chemistry"
                value={cell.chemistry}
                options={CHEMISTRIES}
                onChange={(v) => edit("Chemistry", (d) => setChemistry(d, v))}
              />
              <Choice
                label="Form"
                value={cell.form}
                options={FORMS}
                onChange={(v) => set("Form", (b) => (b.cell.form = v))}
              />
              <Quantities
                of={cell}
                at="/battery/cell"
                fields={FIGURES}
                onCommit={(key, v, label) => edit(label, (d) => Object.assign(d.battery.cell, { [key]: v }))}
              />
              <Quantities
                of={battery}
                at="/battery"
                fields={COUNTS}
                onCommit={(key, v, label) =>
                  edit(label, (d) => {
                    Object.assign(d.battery, { [key]: v });
                    fitPack(d);
                  })
                }
              />
            </div>
            {shown && (
              <dl className="border-line mt-3 grid grid-cols-2 gap-x-3 gap-y-1 border-t pt-3">
                <Row name="peak current">
                  <FigureButton figure={shown.battery.peak_current} />
                </Row>
                <Row name={shown.battery.resistance.label.toLowerCase()}>
                  <FigureButton figure={shown.battery.resistance} />
                </Row>
                <Row name="full, at rest">
                  <FigureButton figure={shown.battery.full_voltage} />
                </Row>
                <Row name="cut-off">
                  <FigureButton figure={shown.battery.cutoff_voltage} />
                </Row>
              </dl>
            )}
            <div className="mt-3 flex flex-wrap items-center gap-3">
              <KeepCell cell={cell} />
            </div>
          </Section>
          <BankFields />
          <PackFields />
          {!cell.bank && <MeasuredCell />}
          {!cell.bank && <CheckedCell />}
        </div>
        <div className="space-y-4">
          <Section title="From the rated capacity to the usable one">
            <CapacitySteps />
          </Section>
          {!cell.bank && <ProtectionFields />}
        </div>
      </div>
      <CatalogueDialog
        kind="cell"
        footer={<OwnEntries kind="cell" />}
        title="Take a cell"
        open={picking}
        onOpenChange={setPicking}
        choose={(e) => e.cell && edit(`Use ${e.cell.name}`, (d) => takeCell(d, e.cell!))}
        describe={({ cell: c }) =>
          c
            ? `${c.chemistry}, ${show(c.capacity_ah, "Ah")}, up to ${show(c.discharge_max_a, "A")}; ${c.size_mm.join(" × ")} mm, ${show(c.mass_g, "g")}`
            : ""
        }
      />
    </StepPage>
  );
}
