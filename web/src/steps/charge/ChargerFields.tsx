// What refills it: the resistor that sets the current, the time, the heat.
import { useState } from "react";
import { removeCharger } from "../../design/edits";
import { useDesign, useOpenDesign } from "../../design/store";
import type { Body, Design } from "../../design/types";
import { OwnEntries } from "../../design/fields/OwnEntries";
import { CatalogueDialog, KeepCharger } from "../../design/fields/catalogue";
import { Button, Check, Choice, Section } from "../../ui/controls";
import { QuantityField, TextField } from "../../design/fields/fields";
import { show } from "../../ui/format";
import { Quantities } from "../../design/fields/quantities";

const placeOf = ({ position_mm, through, on }: Body) => ({ position_mm, through, on });
const BY_RESISTOR = [
  { key: "program_ohm", label: "Setting resistor", dimension: "resistance", positive: true },
  {
    key: "program_constant_v",
    label: "Program constant",
    dimension: "voltage",
    hint: "current = constant ÷ resistor",
    positive: true,
  },
] as const;
const BY_ITSELF = [{ key: "fixed_a", label: "Its current", dimension: "current", positive: true }] as const;
const ALWAYS = [
  { key: "port_limit_a", label: "It draws at most", dimension: "current", positive: true },
  { key: "float_v_per_cell", label: "Float voltage per cell", dimension: "voltage", positive: true },
  { key: "cells_in_series", label: "Made for cells in series", dimension: "count", positive: true },
] as const;
const MORE = [
  { key: "input_max_v", label: "Its input stands", dimension: "voltage", optional: true, placeholder: "not given" },
  {
    key: "program_min_ohm",
    label: "Least resistor",
    dimension: "resistance",
    optional: true,
    placeholder: "not given",
  },
  {
    key: "program_max_ohm",
    label: "Largest resistor",
    dimension: "resistance",
    optional: true,
    placeholder: "not given",
  },
  { key: "float_tolerance", label: "Float voltage is good to", dimension: "share" },
  {
    key: "precharge_v_per_cell",
    label: "Gentle start below",
    dimension: "voltage",
    optional: true,
    placeholder: "never",
  },
  { key: "precharge_share", label: "with this share", dimension: "share", positive: true },
  { key: "termination_share", label: "Ends at this share", dimension: "share", positive: true },
  {
    key: "recharge_v_per_cell",
    label: "Begins anew below",
    dimension: "voltage",
    optional: true,
    placeholder: "when plugged in",
  },
  { key: "foldback_c", label: "Folds back at", dimension: "temperature", optional: true, placeholder: "never" },
  { key: "rth_ja_c_per_w", label: "Junction to air", dimension: "thermal", positive: true },
  { key: "leakage_a", label: "Takes when unplugged", dimension: "current" },
  { key: "lamp_a", label: "Its LED", dimension: "current" },
  { key: "mass_g", label: "Mass", dimension: "mass" },
] as const;
const SWITCHING = [{ key: "efficiency", label: "Efficiency", dimension: "share", positive: true }] as const;
const SETTING = [
  ["resistor", "a resistor"],
  ["itself", "itself, or steps"],
] as const;
const METHODS = [
  ["cc-cv", "voltage, for lithium"],
  ["delta-v", "a falling voltage, for nickel"],
  ["timer", "a timer, for nickel"],
] as const;
const TOPOLOGIES = [
  ["linear", "linear"],
  ["switching", "switching"],
] as const;

export function ChargerSection() {
  const design = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const [picking, setPicking] = useState(false);
  const { charger } = design;
  const set = (label: string, work: (c: NonNullable<Design["charger"]>) => void) =>
    edit(label, (d) => d.charger && work(d.charger));
  const commit = (key: string, v: number | null, label: string) => set(label, (c) => Object.assign(c, { [key]: v }));
  return (
    <Section
      title={charger ? charger.name : "No charger"}
      aside={
        <>
          <Button onClick={() => setPicking(true)}>{charger ? "Take another" : "Take a charger"}</Button>
          {charger && <Button onClick={() => edit("Remove the charger", removeCharger)}>Remove</Button>}
        </>
      }
    >
      {!charger && <p className="text-soft">The cells are swapped, or charged outside the gadget.</p>}
      {charger && (
        <>
          <div className="grid grid-cols-2 gap-2 md:grid-cols-3">
            <div className="col-span-2 md:col-span-3">
              <TextField
                label="Name"
                value={charger.name}
                required
                onCommit={(v) => set("Rename", (c) => (c.name = v))}
              />
            </div>
            {(charger.fixed_a ?? null) === null ? (
              <Quantities of={charger} at="/charger" fields={BY_RESISTOR} onCommit={commit} />
            ) : (
              <Quantities of={charger} at="/charger" fields={BY_ITSELF} onCommit={commit} />
            )}
            {(charger.fixed_a ?? null) !== null && (
              <Steps
                steps={charger.steps_a}
                onChange={(steps) => set("Steps of its current", (c) => (c.steps_a = steps))}
              />
            )}
            <Choice
              label="Its current is set by"
              value={(charger.fixed_a ?? null) === null ? "resistor" : "itself"}
              options={SETTING}
              onChange={(v) =>
                set(
                  "How its current is set",
                  (c) => (c.fixed_a = v === "itself" ? c.program_constant_v / c.program_ohm : null),
                )
              }
            />
            <Quantities of={charger} at="/charger" fields={ALWAYS} onCommit={commit} />
            <Choice
              label="It ends by"
              value={charger.method}
              options={METHODS}
              onChange={(v) => set("How it ends", (c) => (c.method = v))}
            />
            <Choice
              label="It is"
              value={charger.topology}
              options={TOPOLOGIES}
              onChange={(v) => set("Kind of charger", (c) => (c.topology = v))}
            />
          </div>
          <Check
            label="Power path: the port feeds the gadget beside the cell"
            checked={charger.power_path}
            onChange={(v) => set("Power path", (c) => (c.power_path = v))}
          />
          {charger.power_path && (
            <QuantityField
              label="The gadget gets, while plugged in"
              value={charger.system_v}
              dimension="voltage"
              optional
              placeholder={`the port's ${show(charger.port_v, "V")}`}
              path="/charger/system_v"
              onCommit={(v) => set("Voltage of the power path", (c) => (c.system_v = v))}
            />
          )}
          <Check
            label="It takes less where its port's voltage gives way"
            checked={charger.adapts_input}
            onChange={(v) => set("Input of the charger", (c) => (c.adapts_input = v))}
          />
          <Check
            label="It sits outside the case"
            checked={charger.outside}
            onChange={(v) => set("Where the charger sits", (c) => (c.outside = v))}
          />
          <Check
            label="It cuts the gadget's supply while it charges"
            checked={charger.cuts_load}
            onChange={(v) => set("Supply while charging", (c) => (c.cuts_load = v))}
          />
          <Check
            label="It carries a protection circuit for the cells"
            checked={charger.protects}
            onChange={(v) => set("Protection circuit", (c) => (c.protects = v))}
          />
          {charger.cells_in_series > 1 && (
            <Check
              label="It balances the cells"
              checked={charger.balances}
              onChange={(v) => set("Balancing", (c) => (c.balances = v))}
            />
          )}
          <details className="mt-1">
            <summary className="text-soft hover:text-ink min-h-8 cursor-pointer py-1 text-sm">
              More from its datasheet
            </summary>
            <div className="mt-1 grid grid-cols-2 gap-2 md:grid-cols-3">
              <Quantities of={charger} at="/charger" fields={MORE} onCommit={commit} />
              {charger.topology === "switching" && (
                <Quantities of={charger} at="/charger" fields={SWITCHING} onCommit={commit} />
              )}
              {charger.timer_h !== undefined && (
                <QuantityField
                  label="Its timer gives up after"
                  value={charger.timer_h === null ? null : charger.timer_h * 3600}
                  dimension="time"
                  optional
                  placeholder="never"
                  path="/charger/timer_h"
                  onCommit={(v) => set("Safety timer", (c) => (c.timer_h = v === null ? null : v / 3600))}
                />
              )}
            </div>
            <Check
              label="Stops by a temperature sensor on the cell"
              checked={charger.temperature_sensor}
              onChange={(v) => set("Temperature sensor", (c) => (c.temperature_sensor = v))}
            />
            <Check
              label="Its LED hangs on the cell and stays on unplugged"
              checked={charger.lamp_from_cell}
              onChange={(v) => set("LED of the charger", (c) => (c.lamp_from_cell = v))}
            />
          </details>
          <div className="mt-3 flex flex-wrap items-center gap-3">
            <KeepCharger charger={charger} />
          </div>
        </>
      )}
      <CatalogueDialog
        kind="charger"
        footer={<OwnEntries kind="charger" />}
        title="Take a charger"
        open={picking}
        onOpenChange={setPicking}
        choose={(e) =>
          e.charger &&
          edit(`Use ${e.charger.name}`, (d) => {
            const place = d.charger?.body;
            d.charger = structuredClone(e.charger!);
            if (d.charger.body) Object.assign(d.charger.body, { position_mm: null, on: null }, place && placeOf(place));
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

/** The currents that can be chosen: each can be taken away, and one typed in. */
function Steps({ steps, onChange }: { steps: number[]; onChange: (steps: number[]) => void }) {
  return (
    <div className="col-span-2 md:col-span-3">
      <p className="text-soft mb-0.5 text-sm">Steps that can be chosen</p>
      <div className="flex flex-wrap items-end gap-1.5">
        {steps.map((amps) => (
          <Button
            key={amps}
            aria-label={`Take the step ${show(amps, "A")} away`}
            onClick={() => onChange(steps.filter((x) => x !== amps))}
          >
            {show(amps, "A")} ×
          </Button>
        ))}
        <div className="w-36">
          <QuantityField
            label="One more step"
            value={null}
            dimension="current"
            optional
            positive
            onCommit={(v) => v !== null && onChange([...new Set([...steps, v])].sort((a, b) => a - b))}
          />
        </div>
      </div>
    </div>
  );
}
