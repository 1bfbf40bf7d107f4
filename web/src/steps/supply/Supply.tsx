// Supply: how the power gets from the sources to the rails, and where the energy goes on the way.
import { Plus } from "lucide-react";
import { useMemo, useState } from "react";
import { StepPage } from "../../shell/StepPage";
import { addSource, freshId } from "../../design/edits";
import { useDesign, useOpenDesign } from "../../design/store";
import type { Stage } from "../../design/types";
import { OwnEntries } from "../../design/fields/OwnEntries";
import { CatalogueDialog } from "../../design/fields/catalogue";
import { Button, Choice, Section } from "../../ui/controls";
import { show } from "../../ui/format";
import { EnergyPicture } from "./EnergyPicture";
import { FlowPicture } from "./FlowPicture";
import { PlaceChoice, usePlace } from "./place";
import { RailDetails } from "./RailDetails";
import { Schools } from "./Schools";
import { BestSupplies } from "./BestSupplies";
import type { SupplySelection } from "./selection";
import { BatteryPointer, SourceDetails } from "./SourceDetails";
import { StageDetails } from "./StageDetails";
import { KIND_NAMES } from "./stageFields";
import { SupplyFacts } from "./SupplyFacts";
import { SupplyTree } from "./SupplyTree";

const DAY = "(day)";

export function Supply() {
  const design = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const [selected, setSelected] = useState<SupplySelection | null>(null);
  const [picking, setPicking] = useState(false);
  const [mode, setMode] = useState<string | null>(null);
  const [ranked, setRanked] = useState(false);
  const { sources, stages, rails } = design.supply;
  const place = usePlace(selected);
  const input = place.branch;
  const names = useMemo(
    () =>
      new Map([
        ["battery", design.battery.cell.name],
        ...[...sources, ...stages].map((s): [string, string] => [s.id, s.name]),
        ...rails.map((r): [string, string] => [`rail:${r.id}`, r.name]),
      ]),
    [design.battery.cell.name, sources, stages, rails],
  );
  const here = mode && design.modes.some((m) => m.id === mode) ? mode : null;

  const addRail = () =>
    edit("Add a rail", (d) => {
      const id = freshId(
        "rail",
        d.supply.rails.map((r) => r.id),
      );
      d.supply.rails.push({ id, name: "New rail", feed: input, capacitor: null });
      setSelected({ kind: "rail", id });
    });
  const modeChoice = (
    <div className="w-48">
      <Choice
        bare
        label="Show"
        value={here ?? DAY}
        options={[
          [DAY, "the average day"],
          ...design.modes.map((m) => [m.id, `while ${m.name.toLowerCase()}`] as const),
        ]}
        onChange={(v) => setMode(v === DAY ? null : v)}
      />
    </div>
  );
  return (
    <StepPage step="supply" details={selected && <Details selected={selected} />}>
      <Section
        title="From the battery to the rails"
        aside={
          <>
            {modeChoice}
            <Schools />
            <BestSupplies />
            <Button onClick={() => setPicking(true)}>
              <Plus size={15} aria-hidden /> Stage
            </Button>
            <Button onClick={addRail}>
              <Plus size={15} aria-hidden /> Rail
            </Button>
            <Button
              onClick={() =>
                edit("Add a source", (d) => setSelected({ kind: "source", id: addSource(d, "usb", "USB port") }))
              }
            >
              <Plus size={15} aria-hidden /> Source
            </Button>
          </>
        }
      >
        <SupplyTree
          mode={here}
          selected={selected}
          onSelect={setSelected}
          onAdd={(what) => (what === "stage" ? setPicking(true) : addRail())}
        />
        <p className={`text-soft mt-2 text-sm ${stages.length ? "print:hidden" : ""}`}>
          {stages.length === 0
            ? "Everything hangs straight on the battery: simple and frugal, as long as its voltage suits every part."
            : "Drag a box onto what is to feed it. A new stage goes where the selected box is, a new rail hangs on it."}
        </p>
      </Section>
      <Section
        title="Where the power goes"
        className="mt-4"
        aside={
          <>
            {!ranked && modeChoice}
            <Button aria-pressed={ranked} onClick={() => setRanked(!ranked)}>
              {ranked ? "As streams" : "By size"}
            </Button>
          </>
        }
      >
        {ranked ? <EnergyPicture /> : <FlowPicture mode={here} names={names} />}
      </Section>
      <SupplyFacts />
      <CatalogueDialog
        kind="stage"
        footer={<OwnEntries kind="stage" />}
        title="Take a stage"
        header={<PlaceChoice place={place} />}
        open={picking}
        onOpenChange={setPicking}
        choose={(e) =>
          e.stage &&
          edit(`Add ${e.stage.name}`, (d) =>
            setSelected({ kind: "stage", id: place.put(d, e.stage!, { key: e.key, edition: e.edition }) }),
          )
        }
        describe={({ stage }) => (stage ? describeStage(stage) : "")}
      />
    </StepPage>
  );
}

function Details({ selected }: { selected: SupplySelection }) {
  if (selected.kind === "stage") return <StageDetails key={selected.id} id={selected.id} />;
  if (selected.kind === "rail") return <RailDetails key={selected.id} id={selected.id} />;
  if (selected.kind === "source") return <SourceDetails key={selected.id} id={selected.id} />;
  return <BatteryPointer />;
}

function describeStage(stage: Stage): string {
  const limit = `up to ${show(stage.limit_a, "A")}`;
  switch (stage.type) {
    case "pass":
      return `${stage.role}: ${show(stage.resistance_ohm, "Ω")}, ${limit}`;
    case "linear":
      return `linear: ${show(stage.output_v, "V")}, ${limit}, quiescent ${show(stage.quiescent_a, "A")}, dropout ${show(stage.dropout_v, "V")} at ${show(stage.dropout_at_a, "A")}`;
    case "switching":
      return `${stage.topology}: ${show(stage.output_v, "V")}, ${limit}, quiescent ${show(stage.quiescent_a, "A")}${stage.topology === "boost" && !stage.load_disconnect ? ", no load disconnect" : ""}`;
    case "charge-pump":
      return `charge pump: ${stage.inverting ? "inverts" : `× ${stage.ratio}`}${stage.output_v ? `, regulated to ${show(stage.output_v, "V")}` : ""}, ${limit}`;
    case "shunt-regulator":
      return `shunt clamp: ${show(stage.output_v, "V")} behind ${show(stage.resistance_ohm, "Ω")}`;
    default:
      return `${KIND_NAMES[stage.type]}: drops ${show(stage.forward_v, "V")}, ${limit}`;
  }
}
