// Where a new stage goes: a branch of its own on the selected box, or in between.
import { useState } from "react";
import { addStage, insertStage } from "../../design/edits";
import { useOpenDesign, useShown } from "../../design/store";
import type { Design, Stage } from "../../design/types";
import { Choice } from "../../ui/controls";
import type { SupplySelection } from "./selection";

type Where = "branch" | "below" | "before";

export type Place = {
  /** what a new branch or rail hangs on */
  branch: string;
  where: Where;
  choose: (where: Where) => void;
  options: [Where, string][];
  put: (draft: Design, stage: Stage, origin: Stage["origin"]) => string;
};

/** What is picked; with nothing picked, the rail that something is wrong with. */
function useFailing(picked: SupplySelection | null): SupplySelection | null {
  const findings = useShown()?.findings;
  const { rails } = useOpenDesign().supply;
  if (picked) return picked;
  const wrong = findings?.find((f) => ["stop", "fix"].includes(f.severity) && f.where.startsWith("/supply/rails/"));
  const rail = wrong && rails[Number(wrong.where.split("/")[3])];
  return rail ? { kind: "rail", id: rail.id } : null;
}

/** The places that the selected box offers; without one, those of the battery. */
export function usePlace(picked: SupplySelection | null): Place {
  const selected = useFailing(picked);
  const { sources, stages, rails } = useOpenDesign().supply;
  const [chosen, setChosen] = useState<{ of: string; where: Where } | null>(null);
  const stage = selected?.kind === "stage" ? stages.find((s) => s.id === selected.id) : undefined;
  const rail = selected?.kind === "rail" ? rails.find((r) => r.id === selected.id) : undefined;
  const source = selected?.kind === "source" ? sources.find((s) => s.id === selected.id) : undefined;
  const branch = stage?.id ?? source?.id ?? rail?.feed ?? "battery";
  const name = stage?.name ?? source?.name ?? rail?.name ?? "the battery";
  const busy = stages.some((s) => s.input === branch) || rails.some((r) => r.feed === branch);
  const options: [Where, string][] = [];
  if (rail || stage) options.push(["before", `before ${name}`]);
  if (!rail && busy) options.push(["below", `between ${name} and all that hangs on it`]);
  if (!rail) options.push(["branch", `on ${name}, as a branch of its own`]);
  const usual: Where = rail ? "before" : "branch";
  const of = `${selected?.kind} ${selected?.id}`;
  const wanted = chosen?.of === of ? chosen.where : usual;
  const where = options.some(([w]) => w === wanted) ? wanted : usual;
  return {
    branch,
    where,
    options,
    choose: (w) => setChosen({ of, where: w }),
    put: (draft, added, origin) => {
      if (where === "below") return insertStage(draft, added, branch, null, origin);
      if (where === "before" && rail)
        return insertStage(draft, added, rail.feed, { kind: "rail", id: rail.id }, origin);
      if (where === "before" && stage)
        return insertStage(draft, added, stage.input, { kind: "stage", id: stage.id }, origin);
      return addStage(draft, added, branch, origin);
    },
  };
}

export function PlaceChoice({ place }: { place: Place }) {
  if (place.options.length < 2) return <p className="text-soft mb-2 text-sm">It goes {place.options[0]?.[1]}.</p>;
  return (
    <div className="mb-2">
      <Choice label="Where it goes" value={place.where} options={place.options} onChange={place.choose} />
    </div>
  );
}
