// Supply: how the power gets from the battery to the rails, and where the energy goes on the way.
import { Plus } from "lucide-react";
import { useState } from "react";
import { StepPage } from "../../shell/StepPage";
import { addStage, freshId } from "../../design/edits";
import { useDesign, useOpenDesign } from "../../design/store";
import { CatalogueDialog } from "../../ui/catalogue";
import { Button, Section } from "../../ui/controls";
import { show } from "../../ui/format";
import { EnergyPicture } from "./EnergyPicture";
import { SupplyDetails, type SupplySelection } from "./SupplyDetails";
import { SupplyTree } from "./SupplyTree";

export function Supply() {
  const design = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const [selected, setSelected] = useState<SupplySelection | null>(null);
  const [picking, setPicking] = useState(false);
  const input = selected?.kind === "stage" ? selected.id : "battery";
  return (
    <StepPage step="supply" details={selected && <SupplyDetails key={selected.id} selected={selected} />}>
      <Section
        title="From the battery to the rails"
        aside={
          <>
            <Button onClick={() => setPicking(true)}>
              <Plus size={15} aria-hidden /> Stage
            </Button>
            <Button
              onClick={() =>
                edit("Add a rail", (d) => {
                  const id = freshId(
                    "rail",
                    d.supply.rails.map((r) => r.id),
                  );
                  d.supply.rails.push({ id, name: "New rail", feed: input });
                  setSelected({ kind: "rail", id });
                })
              }
            >
              <Plus size={15} aria-hidden /> Rail
            </Button>
          </>
        }
      >
        <SupplyTree selected={selected} onSelect={setSelected} />
        {design.supply.stages.length === 0 && (
          <p className="text-soft mt-2 text-sm">
            Everything hangs straight on the battery: simple and frugal, as long as its voltage suits every part.
          </p>
        )}
      </Section>
      <Section title="Where the energy goes" className="mt-4">
        <EnergyPicture />
      </Section>
      <CatalogueDialog
        kind="stage"
        title={`Take a stage, fed by ${design.supply.stages.find((s) => s.id === input)?.name ?? "the battery"}`}
        open={picking}
        onOpenChange={setPicking}
        choose={(e) =>
          e.stage &&
          edit(`Add ${e.stage.name}`, (d) => setSelected({ kind: "stage", id: addStage(d, e.stage!, input) }))
        }
        describe={({ stage }) => {
          if (!stage) return "";
          if (stage.type === "series") return `${show(stage.resistance_ohm, "Ω")}, up to ${show(stage.limit_a, "A")}`;
          const base = `${show(stage.output_v, "V")}, up to ${show(stage.limit_a, "A")}, quiescent ${show(stage.quiescent_a, "A")}`;
          return stage.type === "linear"
            ? `linear: ${base}, dropout ${show(stage.dropout_v, "V")} at ${show(stage.dropout_at_a, "A")}`
            : `${stage.topology}: ${base}`;
        }}
      />
    </StepPage>
  );
}
