// The wires of the supply: how thick each has to be, and, where it is counted, how long and how thick it is.
import { ChevronDown, ChevronRight } from "lucide-react";
import { useId, useState } from "react";
import type { Schemas } from "../../api/client";
import { QuantityField } from "../../design/fields/fields";
import { actions, useDesign, useOpenDesign } from "../../design/store";
import type { Design } from "../../design/types";
import { Button, Check, Choice, Section } from "../../ui/controls";
import { show } from "../../ui/format";
import { LeadsPicture } from "./LeadsPicture";
import { leadText } from "./leadText";

type Sheet = Schemas["WiringSheet"];
type Row = Schemas["LeadRow"];
type Lead = Schemas["Lead"];

/** The stage or the rail that a wire leads to. */
function target(design: Design, where: string): { lead?: Lead | null } | undefined {
  const [, kind, at] = where.split("/").slice(1);
  return kind === "stages" ? design.supply.stages[Number(at)] : design.supply.rails[Number(at)];
}

type Wire = { where: string; from: string; to: string; lead: Lead | null };

/** The wires of the open document: to each stage, then to each rail. */
function wiresOf({ supply }: Design): Wire[] {
  const names = new Map([...supply.sources, ...supply.stages].map((x) => [x.id, x.name]));
  const from = (id: string) => names.get(id) ?? "Battery";
  return [
    ...supply.stages.map((x, i) => ({
      where: `/supply/stages/${i}`,
      from: from(x.input),
      to: x.name,
      lead: x.lead ?? null,
    })),
    ...supply.rails.map((x, i) => ({
      where: `/supply/rails/${i}`,
      from: from(x.feed),
      to: x.name,
      lead: x.lead ?? null,
    })),
  ];
}

/** `sheet` tells what goes through them; the fields stand there without it too, also while a figure is wrong. */
export function Leads({ sheet, fresh }: { sheet: Sheet | undefined; fresh: boolean }) {
  const design = useOpenDesign();
  const counts = sheet?.count;
  const told = new Map(sheet?.leads.map((row) => [row.where, row]));
  return (
    <Section title="Wires of the supply">
      <p className="text-soft mb-2 text-sm">
        Each with its ground beside it. A wire that is counted takes its share in the sag, the droop and the runtime. Of
        the others stands how thick they have to be at {show(sheet?.metres ?? 0.15, "m")} there and as much back, so
        that they take less than a hundredth at the peak and stay cool.
      </p>
      {counts && (
        <Button
          disabled={!fresh}
          onClick={() => actions.applyRemedy(counts.label, counts.patch)}
          className="print:hidden"
        >
          {counts.label}
        </Button>
      )}
      {!!sheet?.leads.length && <LeadsPicture rows={sheet.leads} />}
      <ul className="divide-line/60 divide-y">
        {wiresOf(design).map((wire) => (
          <LeadItem key={wire.where} wire={wire} row={told.get(wire.where)} />
        ))}
      </ul>
    </Section>
  );
}

function LeadItem({ wire, row }: { wire: Wire; row: Row | undefined }) {
  const [open, setOpen] = useState(false);
  const id = useId();
  const Arrow = open ? ChevronDown : ChevronRight;
  return (
    <li className="py-2">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <button
          type="button"
          aria-expanded={open}
          aria-controls={id}
          className="flex min-h-6 min-w-0 flex-1 basis-64 items-center gap-1 text-left font-medium"
          onClick={() => setOpen(!open)}
        >
          <Arrow size={15} aria-hidden className="text-soft shrink-0 print:hidden" />
          <span>
            {wire.from} → {wire.to}
          </span>
        </button>
        {row && (
          <span className="text-soft text-sm tabular-nums">
            {show(row.volts, "V")}, peak {show(row.peak_a, "A")}
          </span>
        )}
        {(row || wire.lead) && (
          <span className="font-semibold tabular-nums">{leadText(wire.lead, row?.section_mm2 ?? null)}</span>
        )}
        {row && (
          <span className="text-soft text-sm tabular-nums">
            {row.wire ? "takes" : "would take"} {show(row.drop_v, "V")}
          </span>
        )}
      </div>
      {open && (
        <div id={id} className="pt-2 pb-1 pl-5 print:hidden">
          <LeadFields where={wire.where} wire={wire.lead} needed={row?.section_mm2} />
        </div>
      )}
    </li>
  );
}

type LeadProps = { where: string; wire: Lead | null; needed: number | null | undefined };

function LeadFields({ where, wire, needed }: LeadProps) {
  const edit = useDesign((s) => s.edit);
  const change = (label: string, work: (lead: Lead) => void) =>
    edit(label, (draft) => {
      const lead = target(draft, where)?.lead;
      if (lead) work(lead);
    });
  const set = (lead: Lead | null) =>
    edit(lead ? "Count the wire" : "Wire not counted", (draft) => {
      const at = target(draft, where);
      if (at) at.lead = lead;
    });
  if (!wire)
    return (
      <Button
        onClick={() =>
          set({
            length_mm: 150,
            section_mm2: needed === undefined ? 0.25 : (needed ?? 2.5),
            trace_mm: null,
            contact_ohm: 0.01,
            rated_a: null,
            ground_apart: true,
          })
        }
      >
        Count this wire
      </Button>
    );
  const path = `${where}/lead`;
  return (
    <div className="max-w-2xl space-y-2">
      <div className="grid grid-cols-2 items-end gap-2 sm:grid-cols-3">
        <Choice
          label="It is"
          value={wire.section_mm2 === null ? "trace" : "wire"}
          options={[
            ["wire", "a wire"],
            ["trace", "a trace on a board"],
          ]}
          onChange={(v) =>
            change("Wire or trace", (x) => {
              x.section_mm2 = v === "wire" ? 0.25 : null;
              x.trace_mm = v === "wire" ? null : 2;
            })
          }
        />
        {wire.section_mm2 === null ? (
          <QuantityField
            label="Width"
            value={wire.trace_mm}
            dimension="length"
            positive
            path={`${path}/trace_mm`}
            onCommit={(v) => v !== null && change("Width of the trace", (x) => (x.trace_mm = v))}
          />
        ) : (
          <QuantityField
            label="Copper"
            value={wire.section_mm2}
            dimension="area"
            positive
            path={`${path}/section_mm2`}
            onCommit={(v) => v !== null && change("Thickness of the wire", (x) => (x.section_mm2 = v))}
          />
        )}
        <QuantityField
          label="Length, one way"
          value={wire.length_mm}
          dimension="length"
          path={`${path}/length_mm`}
          onCommit={(v) => v !== null && change("Length of the wire", (x) => (x.length_mm = v))}
        />
        <QuantityField
          label="Contacts, both ways"
          value={wire.contact_ohm}
          dimension="resistance"
          path={`${path}/contact_ohm`}
          onCommit={(v) => v !== null && change("Contacts of the wire", (x) => (x.contact_ohm = v))}
        />
        <QuantityField
          label="Its connector stands"
          value={wire.rated_a}
          dimension="current"
          optional
          placeholder="none, or not given"
          path={`${path}/rated_a`}
          onCommit={(v) => change("Rating of the connector", (x) => (x.rated_a = v))}
        />
      </div>
      {where.startsWith("/supply/rails/") && (
        <Check
          label="Each part has a ground wire of its own from where it begins"
          checked={wire.ground_apart}
          onChange={(v) => change("Ground wires", (x) => (x.ground_apart = v))}
        />
      )}
      <Button kind="quiet" onClick={() => set(null)}>
        Do not count it
      </Button>
    </div>
  );
}
