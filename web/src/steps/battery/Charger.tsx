// What refills it: the resistor that sets the current, the time, the heat.
import { useState } from "react";
import { useDesign, useOpenDesign, useShown } from "../../design/store";
import type { Design } from "../../design/types";
import { CatalogueDialog } from "../../design/fields/catalogue";
import { Button, Check, Choice, Section } from "../../ui/controls";
import { QuantityField } from "../../design/fields/fields";
import { FigureButton } from "../../design/fields/figure";
import { show } from "../../ui/format";
import { Row } from "../../ui/row";

export function ChargerSection() {
  const design = useOpenDesign();
  const shown = useShown();
  const edit = useDesign((s) => s.edit);
  const [picking, setPicking] = useState(false);
  const { charger } = design;
  const set = (label: string, work: (c: NonNullable<Design["charger"]>) => void) =>
    edit(label, (d) => d.charger && work(d.charger));
  const report = shown?.charge;
  return (
    <Section
      title={charger ? charger.name : "No charger"}
      aside={
        <>
          <Button onClick={() => setPicking(true)}>{charger ? "Take another" : "Take a charger"}</Button>
          {charger && <Button onClick={() => edit("Remove the charger", (d) => (d.charger = null))}>Remove</Button>}
        </>
      }
    >
      {!charger && <p className="text-soft">The cells are swapped, or charged outside the gadget.</p>}
      {charger && (
        <>
          <div className="grid grid-cols-2 gap-2 md:grid-cols-3">
            <QuantityField
              label="Setting resistor"
              value={charger.program_ohm}
              dimension="resistance"
              path="/charger/program_ohm"
              positive
              onCommit={(v) => v !== null && set("Setting resistor", (c) => (c.program_ohm = v))}
            />
            <QuantityField
              label="Program constant"
              value={charger.program_constant_v}
              dimension="voltage"
              path="/charger/program_constant_v"
              hint="current = constant ÷ resistor"
              positive
              onCommit={(v) => v !== null && set("Program constant", (c) => (c.program_constant_v = v))}
            />
            <QuantityField
              label="The port gives"
              value={charger.port_limit_a}
              dimension="current"
              path="/charger/port_limit_a"
              positive
              onCommit={(v) => v !== null && set("Port limit", (c) => (c.port_limit_a = v))}
            />
            <QuantityField
              label="Float voltage per cell"
              value={charger.float_v_per_cell}
              dimension="voltage"
              path="/charger/float_v_per_cell"
              positive
              onCommit={(v) => v !== null && set("Float voltage", (c) => (c.float_v_per_cell = v))}
            />
            <QuantityField
              label="Made for cells in series"
              value={charger.cells_in_series}
              dimension="count"
              path="/charger/cells_in_series"
              positive
              onCommit={(v) => v !== null && set("Cells in series", (c) => (c.cells_in_series = v))}
            />
            <Choice
              label="Charged while"
              value={charger.mode ?? ""}
              options={[["", "at rest"], ...design.modes.map((m) => [m.id, m.name.toLowerCase()] as const)]}
              onChange={(v) => set("The mode it charges in", (c) => (c.mode = v || null))}
            />
          </div>
          <Check
            label="Power path: the port feeds the gadget beside the cell"
            checked={charger.power_path}
            onChange={(v) => set("Power path", (c) => (c.power_path = v))}
          />
          {report && (
            <dl className="border-line mt-2 grid grid-cols-2 gap-x-3 gap-y-1 border-t pt-2">
              <Row name="float voltage over all cells">
                <FigureButton figure={report.float_voltage} />
              </Row>
              <Row name="charge current">
                <FigureButton figure={report.current} />
              </Row>
              <Row name="most for this battery">
                <FigureButton figure={report.highest_current} />
              </Row>
              <Row name="recommended current">
                <FigureButton figure={report.gentle_current} />
              </Row>
              <Row name="resistor for that">
                <FigureButton figure={report.gentle_resistor} />
              </Row>
              <Row name="time to full">
                <FigureButton figure={report.time} />
              </Row>
              <Row name="heat in the charger">
                <FigureButton figure={report.heat} />
              </Row>
              <Row name="most on the cable">
                <FigureButton figure={report.on_the_cable} />
              </Row>
              {shown?.heat.charging && (
                <Row name="air inside meanwhile">
                  <FigureButton figure={shown.heat.charging} />
                </Row>
              )}
              {shown?.heat.charger && (
                <Row name="its junction">
                  <FigureButton figure={shown.heat.charger} />
                </Row>
              )}
            </dl>
          )}
        </>
      )}
      <CatalogueDialog
        kind="charger"
        title="Take a charger"
        open={picking}
        onOpenChange={setPicking}
        choose={(e) =>
          e.charger &&
          edit(`Use ${e.charger.name}`, (d) => {
            const place = d.charger?.body;
            d.charger = structuredClone(e.charger!);
            if (place && d.charger.body)
              d.charger.body = { ...d.charger.body, position_mm: place.position_mm, through: place.through };
          })
        }
        describe={({ charger: c }) =>
          c
            ? `port ${show(c.port_v, "V")}, up to ${show(c.port_limit_a, "A")}${c.power_path ? ", with a power path" : ""}`
            : ""
        }
      />
    </Section>
  );
}
