// Where the charger's power comes from.
import { useDesign, useOpenDesign } from "../../design/store";
import type { Design } from "../../design/types";
import { Check, Choice, Section } from "../../ui/controls";
import { QuantityField } from "../../design/fields/fields";
import { Quantities } from "../../design/fields/quantities";

type Port = NonNullable<NonNullable<Design["charger"]>["port"]>;

const KINDS = [
  ["usb", "a USB socket"],
  ["type-c", "a type-C socket"],
  ["adapter", "a wall adapter"],
  ["power-bank", "a power bank"],
  ["bench-supply", "a bench supply"],
  ["wireless", "a wireless pad"],
  ["solar", "a solar panel"],
] as const;
const USUAL: Record<Port["kind"], readonly [number, string][]> = {
  usb: [
    [0.1, "100 mA, before it is asked"],
    [0.5, "500 mA, data and power"],
    [0.9, "900 mA, fast data"],
  ],
  "type-c": [
    [0.5, "as USB, 500 mA"],
    [1.5, "1.5 A by its resistors"],
    [3, "3 A by its resistors"],
  ],
  adapter: [
    [1, "1 A"],
    [2, "2 A"],
  ],
  "power-bank": [
    [1, "1 A"],
    [2.1, "2.1 A"],
  ],
  "bench-supply": [[1, "1 A"]],
  wireless: [[1, "1 A"]],
  solar: [],
};
const PANEL = [
  { key: "peak_w", label: "Peak power", dimension: "power", positive: true },
  { key: "area_cm2", label: "Area of its cells [cm²]", dimension: "number", positive: true },
  { key: "latitude_deg", label: "Latitude", dimension: "angle" },
  { key: "tilt_deg", label: "Tilt from lying flat", dimension: "angle" },
] as const;
const MONTHS = "January February March April May June July August September October November December".split(" ");

export function PortSection() {
  const { charger } = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  if (!charger) return null;
  const port = charger.port;
  const set = (label: string, work: (p: Port) => void) =>
    edit(label, (d) => {
      if (d.charger?.port) work(d.charger.port);
    });
  const choose = (kind: Port["kind"] | "") =>
    edit("Where its power comes from", (d) => {
      if (!d.charger) return;
      const gives = USUAL[kind || "usb"].find(([a]) => a >= 0.5)?.[0] ?? d.charger.port_limit_a;
      d.charger.port = kind
        ? {
            kind,
            gives_a: gives,
            resistors: true,
            panel: kind === "solar" ? { peak_w: 1, area_cm2: 70, latitude_deg: 50, month: 12, tilt_deg: 60 } : null,
          }
        : null;
    });
  return (
    <Section title="Where its power comes from">
      <div className="grid grid-cols-2 gap-2">
        <Choice
          label="Source"
          value={port?.kind ?? ""}
          options={[["", "a port that gives what it draws"] as const, ...KINDS]}
          onChange={choose}
        />
        {port && (
          <QuantityField
            label="It gives at most"
            value={port.gives_a}
            dimension="current"
            path="/charger/port/gives_a"
            positive
            onCommit={(v) => v !== null && set("What the source gives", (p) => (p.gives_a = v))}
          />
        )}
        <QuantityField
          label="Its voltage"
          value={charger.port_v}
          dimension="voltage"
          path="/charger/port_v"
          positive
          onCommit={(v) =>
            v !== null &&
            edit("Voltage of the port", (d) => {
              if (d.charger) d.charger.port_v = v;
            })
          }
        />
      </div>
      {port && USUAL[port.kind].length > 0 && (
        <p className="text-soft mt-2 flex flex-wrap gap-x-3 text-sm">
          Usual:
          {USUAL[port.kind].map(([amps, name]) => (
            <button
              key={name}
              type="button"
              className="hover:text-ink min-h-7 underline decoration-dotted underline-offset-2"
              onClick={() => set("What the source gives", (p) => (p.gives_a = amps))}
            >
              {name}
            </button>
          ))}
        </p>
      )}
      {port?.kind === "type-c" && (
        <Check
          label="The socket has its two 5.1 kΩ resistors"
          checked={port.resistors}
          onChange={(v) => set("Resistors of the socket", (p) => (p.resistors = v))}
        />
      )}
      {port?.panel && (
        <div className="mt-2 grid grid-cols-2 gap-2">
          <Quantities
            of={port.panel}
            at="/charger/port/panel"
            fields={PANEL}
            onCommit={(key, v, label) => v !== null && set(label, (p) => Object.assign(p.panel ?? {}, { [key]: v }))}
          />
          <Choice
            label="The month that has to do"
            value={String(port.panel.month)}
            options={MONTHS.map((m, i) => [String(i + 1), m] as const)}
            onChange={(v) => set("Month", (p) => p.panel && (p.panel.month = Number(v)))}
          />
        </div>
      )}
    </Section>
  );
}
