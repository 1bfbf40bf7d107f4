// Brief: what the gadget must do, and what it must not exceed.
import { StepPage } from "../../shell/StepPage";
import { useDesign, useOpenDesign } from "../../design/store";
import type { Design } from "../../design/types";
import { Button, Check, Choice, Section } from "../../ui/controls";
import { QuantityField, SizeField, TextField } from "../../design/fields/fields";

export function Brief() {
  const design = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const { brief } = design;
  const set = (label: string, work: (b: Design["brief"]) => void) => edit(label, (d) => work(d.brief));
  return (
    <StepPage step="brief">
      <div className="grid gap-4 xl:grid-cols-2">
        <Section title="What it is" className="xl:col-span-2">
          <div className="grid gap-3 md:grid-cols-[1fr_2fr]">
            <TextField label="Name" value={design.name} required onCommit={(v) => edit("Name", (d) => (d.name = v))} />
            <TextField
              label="In a few words"
              value={design.summary}
              lines={3}
              max={4000}
              onCommit={(v) => edit("Description", (d) => (d.summary = v))}
            />
          </div>
        </Section>
        <Section title="What it must do">
          <div className="grid grid-cols-2 gap-3">
            <QuantityField
              label="Runtime, by the clock"
              value={brief.goal_h}
              dimension="time"
              unit="h"
              optional
              path="/brief/goal_h"
              hint="between charges, or per set of cells"
              onCommit={(v) => set("Goal", (b) => (b.goal_h = v))}
            />
            <QuantityField
              label="Shelf life, switched off"
              value={brief.shelf_h}
              dimension="time"
              unit="h"
              optional
              path="/brief/shelf_h"
              onCommit={(v) => set("Shelf life", (b) => (b.shelf_h = v))}
            />
            <QuantityField
              label="A charge may take"
              value={brief.charge_max_h}
              dimension="time"
              unit="h"
              optional
              path="/brief/charge_max_h"
              onCommit={(v) => set("Charge time", (b) => (b.charge_max_h = v))}
            />
            <QuantityField
              label="Used more or less, by a factor"
              value={brief.use_factor}
              dimension="number"
              path="/brief/use_factor"
              hint="one in ten so much more, one in ten so much less; 1: just as planned"
              positive
              onCommit={(v) => v !== null && set("How it is used", (b) => (b.use_factor = v))}
            />
          </div>
        </Section>
        <Section title="Where it lives">
          <div className="grid grid-cols-3 gap-3">
            <QuantityField
              label="Coldest"
              value={brief.coldest_c}
              dimension="temperature"
              path="/brief/coldest_c"
              onCommit={(v) => v !== null && set("Coldest", (b) => (b.coldest_c = v))}
            />
            <QuantityField
              label="Usual"
              value={brief.usual_c}
              dimension="temperature"
              path="/brief/usual_c"
              hint="the runtime is for this"
              onCommit={(v) => v !== null && set("Usual temperature", (b) => (b.usual_c = v))}
            />
            <QuantityField
              label="Hottest"
              value={brief.hottest_c}
              dimension="temperature"
              path="/brief/hottest_c"
              onCommit={(v) => v !== null && set("Hottest", (b) => (b.hottest_c = v))}
            />
          </div>
          <div className="mt-3">
            <Choice
              label="Exposed to"
              value={brief.exposure}
              options={[
                ["dry", "dry rooms"],
                ["splashed", "rain and splashes"],
                ["sealed", "weather all year: sealed"],
              ]}
              onChange={(v) => set("Exposure", (b) => (b.exposure = v))}
            />
          </div>
          <div className="mt-3">
            <QuantityField
              label="Left, switched off, in up to"
              value={brief.left_c}
              dimension="temperature"
              optional
              placeholder="as in use"
              path="/brief/left_c"
              hint="a car in the sun: 70 °C"
              onCommit={(v) => set("Where it is left", (b) => (b.left_c = v))}
            />
          </div>
          <Check
            label="Small children may get hold of it"
            checked={brief.children_near}
            onChange={(v) => set("Children", (b) => (b.children_near = v))}
          />
          <div className="mt-3">
            <Choice
              label="Charged"
              value={brief.charged}
              options={[
                ["indoors", "indoors, at 10 to 30 °C"],
                ["anywhere", "wherever it is, from the coldest to the hottest"],
              ]}
              onChange={(v) => set("Where it is charged", (b) => (b.charged = v))}
            />
          </div>
        </Section>
        <Section title="What it must not exceed" className="xl:col-span-2">
          <div className="grid gap-3 md:grid-cols-4">
            <div className="md:col-span-2">
              {brief.outer_max_mm ? (
                <SizeField
                  label="Outer size"
                  value={brief.outer_max_mm}
                  path="/brief/outer_max_mm"
                  onCommit={(v) => set("Largest size", (b) => (b.outer_max_mm = v))}
                />
              ) : (
                <Button
                  className="mt-5"
                  onClick={() => set("Largest size", (b) => (b.outer_max_mm = [...design.enclosure.outer_mm]))}
                >
                  Set a largest size
                </Button>
              )}
            </div>
            <QuantityField
              label="Mass"
              value={brief.mass_max_g}
              dimension="mass"
              optional
              path="/brief/mass_max_g"
              onCommit={(v) => set("Largest mass", (b) => (b.mass_max_g = v))}
            />
            <div className="grid grid-cols-[1fr_5rem] gap-2">
              <QuantityField
                label="Cost"
                value={brief.cost_max}
                dimension="cost"
                optional
                path="/brief/cost_max"
                onCommit={(v) => set("Highest cost", (b) => (b.cost_max = v))}
              />
              <TextField
                label="in"
                value={brief.currency}
                max={3}
                path="/brief/currency"
                onCommit={(v) => set("Currency", (b) => (b.currency = v.toUpperCase()))}
              />
            </div>
          </div>
        </Section>
      </div>
      <p className="text-soft mt-4 text-sm">
        All figures are estimates for design. Have anything that people depend on checked by someone qualified.
      </p>
    </StepPage>
  );
}
