// Draw: parts against modes, one grid. What a cell says is a state for a share of the mode; its shade is its share
// of what the mode draws from the battery.
import { Plus } from "lucide-react";
import { useState } from "react";
import { StepPage } from "../../shell/StepPage";
import { addPart, ownPart, copyMode } from "../../design/edits";
import { useDesign, useOpenDesign, useShown } from "../../design/store";
import type { Part } from "../../design/types";
import { CatalogueDialog } from "../../design/fields/catalogue";
import { Button, Empty } from "../../ui/controls";
import { FigureButton } from "../../design/fields/figure";
import { show } from "../../ui/format";
import { CellDetails } from "./CellDetails";
import { DrawGrid, type Selected } from "./DrawGrid";
import { ModeDetails } from "./ModeDetails";
import { MergeTable } from "../../tables/MergeTable";
import { OwnEntries } from "../../design/fields/OwnEntries";

export function Draw() {
  const design = useOpenDesign();
  const shown = useShown();
  const edit = useDesign((s) => s.edit);
  const [selected, setSelected] = useState<Selected | null>(null);
  const [picking, setPicking] = useState(false);
  const [merging, setMerging] = useState(false);
  const current =
    selected &&
    design.modes.some((m) => m.id === selected.mode) &&
    (selected.part === null || design.parts.some((p) => p.id === selected.part))
      ? selected
      : null;
  const take = (part: Part, origin: NonNullable<Part["origin"]>) => {
    edit(`Add ${part.name}`, (draft) => {
      const suits = shown?.supply.rails.filter(
        ({ voltage }) =>
          (voltage.value ?? 0) >= (part.supply_min_v ?? 0) &&
          (voltage.high ?? 0) <= (part.supply_absolute_max_v ?? 1e9),
      );
      const id = addPart(
        draft,
        part,
        origin,
        suits?.map((r) => r.rail),
      );
      setSelected({ part: id, mode: draft.day.rest });
    });
  };
  const make = (name: string) =>
    edit(`Add ${name || "a part"}`, (draft) => {
      const id = addPart(draft, ownPart(name || "New part"), null);
      setSelected({ part: id, mode: draft.day.rest });
    });
  return (
    <StepPage
      step="draw"
      details={
        current &&
        (current.part === null ? (
          <ModeDetails key={current.mode} mode={current.mode} />
        ) : (
          <CellDetails key={`${current.part} ${current.mode}`} part={current.part} mode={current.mode} />
        ))
      }
    >
      <div className="mb-3 flex flex-wrap items-center gap-2">
        <h2 className="mr-auto text-lg">
          What each part draws
          {shown && design.parts.length > 0 && (
            <span className="text-soft ml-2 font-sans text-[0.9375rem] font-normal">
              on average <FigureButton figure={shown.draw.mean} className="text-ink" /> at the battery
            </span>
          )}
        </h2>
        <Button onClick={() => setPicking(true)}>
          <Plus size={15} aria-hidden /> Part
        </Button>
        <Button onClick={() => setMerging(true)}>From a table</Button>
        <Button
          onClick={() =>
            edit("Add a mode", (draft) => {
              const last = draft.modes.at(-1)!;
              const id = copyMode(draft, last.id, `${last.name} 2`);
              setSelected({ part: null, mode: id });
            })
          }
        >
          <Plus size={15} aria-hidden /> Mode
        </Button>
      </div>
      {design.parts.length === 0 ? (
        <Empty title="No parts yet">
          <p>The first part gives the first runtime. Take one from the catalogue and change its figures to yours.</p>
          <Button kind="strong" className="mt-4" onClick={() => setPicking(true)}>
            Take a part
          </Button>
        </Empty>
      ) : (
        <DrawGrid selected={current} onSelect={setSelected} />
      )}
      {design.parts.length > 0 && shown && shown.draw.others.length > 0 && (
        <p className="text-soft mt-3 text-[0.9375rem]">
          Beside the parts, for themselves:{" "}
          {shown.draw.others.map((o, i) => (
            <span key={`${o.kind} ${o.id}`}>
              {i > 0 && ", "}
              {o.name} <FigureButton figure={o.current} className="text-ink" /> ({show(o.share, "share")})
            </span>
          ))}
          .
        </p>
      )}
      <MergeTable open={merging} onOpenChange={setMerging} />
      <CatalogueDialog
        kind="part"
        title="Take a part"
        open={picking}
        onOpenChange={setPicking}
        choose={(e) => e.part && take(e.part, { key: e.key, edition: e.edition })}
        describe={(e) => (e.part ? describePart(e.part) : "")}
        make={make}
        footer={<OwnEntries kind="part" />}
      />
    </StepPage>
  );
}

export function describePart(part: Part): string {
  const idle = part.states.every(({ draw }) => draw.behaviour === "current" && draw.current_a.typical === 0);
  const states = idle ? "draws nothing" : part.states.map((s) => `${s.name} ${describeDraw(s)}`).join(", ");
  const size = part.body ? `; ${part.body.size_mm.join(" × ")} mm` : "";
  return `${part.kind}: ${states}${size}`;
}

export function describeDraw(state: Part["states"][number]): string {
  const { draw } = state;
  if (draw.behaviour === "current") return show(draw.current_a.typical, "A");
  if (draw.behaviour === "power") return show(draw.power_w.typical, "W");
  return show(draw.resistance_ohm.typical, "Ω");
}
