// What is around the case, and what it is made of.
import { useDesign, useOpenDesign } from "../../design/store";
import { MATERIALS } from "../../design/fields/materials";
import type { Design } from "../../design/types";
import { Check, Choice, Section } from "../../ui/controls";
import { Quantities } from "../../design/fields/quantities";

const STANDS = [
  ["lying", "lies on something"],
  ["standing", "stands on something"],
  ["hung", "hangs, air all round"],
] as const;
const CARRIED = [
  ["no", "is left alone"],
  ["hand", "is held in the hand"],
  ["clothes", "is worn in clothes"],
] as const;
const VENTS = [
  { key: "area_mm2", label: "Free area below", dimension: "area", positive: true },
  { key: "height_mm", label: "From low to high", dimension: "length", positive: true },
] as const;

export function CaseInAir() {
  const { enclosure } = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const set = (label: string, work: (e: Design["enclosure"]) => void) => edit(label, (d) => work(d.enclosure));
  return (
    <Section title="The case and what is around it">
      <div className="grid grid-cols-2 gap-2">
        <Choice
          label="Made of"
          value={enclosure.plastic}
          options={MATERIALS}
          onChange={(v) => set("Material", (e) => (e.plastic = v))}
        />
        <Choice
          label="It"
          value={enclosure.stands}
          options={STANDS}
          onChange={(v) => set("How it stands", (e) => (e.stands = v))}
        />
        <Choice
          label="Meanwhile it"
          value={enclosure.carried}
          options={CARRIED}
          onChange={(v) => set("How it is carried", (e) => (e.carried = v))}
        />
        <Choice
          label="Its colour"
          value={enclosure.colour}
          options={[
            ["light", "light"],
            ["dark", "dark"],
          ]}
          onChange={(v) => set("Colour", (e) => (e.colour = v))}
        />
      </div>
      <div className="mt-1 flex flex-wrap gap-x-5">
        <Check
          label="It may lie in the sun"
          checked={enclosure.in_sun}
          onChange={(v) => set("Sun", (e) => (e.in_sun = v))}
        />
        <Check
          label="Vents low and high"
          checked={Boolean(enclosure.vents)}
          onChange={(v) =>
            set(
              "Vents",
              (e) => (e.vents = v ? { area_mm2: 60, height_mm: Math.max(Math.min(...e.outer_mm) - 4, 2) } : null),
            )
          }
        />
      </div>
      {enclosure.vents && (
        <div className="mt-1 grid grid-cols-2 gap-2">
          <Quantities
            of={enclosure.vents}
            at="/enclosure/vents"
            fields={VENTS}
            onCommit={(key, v, label) => v !== null && set(label, (e) => Object.assign(e.vents ?? {}, { [key]: v }))}
          />
        </div>
      )}
    </Section>
  );
}
