// Beside the tree: a source beside the battery, and the modes in which it is plugged in.
import { Trash2 } from "lucide-react";
import { Link, useParams } from "react-router";
import { removeSource } from "../../design/edits";
import { useDesign, useOpenDesign, useShown } from "../../design/store";
import type { Design } from "../../design/types";
import { Button, Choice, Toggles } from "../../ui/controls";
import { TextField } from "../../design/fields/fields";
import { FigureButton } from "../../design/fields/figure";
import { Quantities } from "../../design/fields/quantities";
import { Row } from "../../ui/row";

type Source = Design["supply"]["sources"][number];

export const SOURCE_KINDS: readonly [Source["kind"], string][] = [
  ["usb", "USB port"],
  ["power-bank", "power bank"],
  ["adapter", "plug-in adapter"],
  ["bench", "bench supply"],
];

const FIGURES = [
  { key: "voltage_v", label: "Voltage", dimension: "voltage" },
  { key: "limit_a", label: "Max current", dimension: "current" },
  { key: "resistance_ohm", label: "Cable and contacts", dimension: "resistance" },
] as const;
const LEAST = { key: "auto_shutoff_a", label: "Switches off below", dimension: "current", hint: "0 A: never" } as const;

export function SourceDetails({ id }: { id: string }) {
  const design = useOpenDesign();
  const shown = useShown();
  const edit = useDesign((s) => s.edit);
  const i = design.supply.sources.findIndex((s) => s.id === id);
  const source = design.supply.sources[i];
  if (!source) return null;
  const path = `/supply/sources/${i}`;
  const report = shown?.supply.sources.find((s) => s.source === id);
  const set = (label: string, change: Partial<Source>) =>
    edit(label, (d) => void Object.assign(d.supply.sources[i]!, change));
  return (
    <section aria-label="Source" className="space-y-3">
      <h2 className="text-lg leading-snug">{source.name}</h2>
      {report && (
        <dl className="grid grid-cols-[1fr_auto] gap-x-3 gap-y-1">
          <Row name="most it has to give">
            <FigureButton figure={report.peak} />
          </Row>
        </dl>
      )}
      <TextField label="Name" value={source.name} required onCommit={(name) => set("Rename", { name })} />
      <div className="grid grid-cols-2 items-end gap-2">
        <Choice label="Kind" value={source.kind} options={SOURCE_KINDS} onChange={(kind) => set("Kind", { kind })} />
        <Quantities
          of={source}
          at={path}
          fields={source.kind === "power-bank" ? [...FIGURES, LEAST] : FIGURES}
          onCommit={(key, v, label) => set(label, { [key]: v })}
        />
      </div>
      <Toggles
        label="Plugged in while"
        options={design.modes.map((m) => [m.id, m.name] as const)}
        chosen={design.modes.filter((m) => m.plugged.includes(id)).map((m) => m.id)}
        onChange={(ids) =>
          edit(`${source.name}: plugged in while`, (d) => {
            for (const mode of d.modes) {
              const others = mode.plugged.filter((s) => s !== id);
              mode.plugged = ids.includes(mode.id) ? [...others, id] : others;
            }
          })
        }
      />
      <Button onClick={() => edit(`Remove ${source.name}`, (d) => removeSource(d, id))}>
        <Trash2 size={15} aria-hidden /> Remove the source
      </Button>
    </section>
  );
}

export function BatteryPointer() {
  const { variantId } = useParams();
  return (
    <section aria-label="Battery">
      <h2 className="text-lg">The battery</h2>
      <p className="text-soft mt-1">
        It is chosen in{" "}
        <Link className="underline underline-offset-2" to={`/gadgets/${variantId}/battery`}>
          Battery
        </Link>
        .
      </p>
    </section>
  );
}
