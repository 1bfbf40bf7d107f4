// What is selected in the tree, and what may feed what.
import { useOpenDesign } from "../../design/store";
import type { Design, Stage } from "../../design/types";

export type SupplySelection = { kind: "battery" | "source" | "stage" | "rail"; id: string };

export const feedsOf = (stage: Stage): string[] =>
  stage.type === "power-or" ? [stage.input, stage.other] : [stage.input];

/** Whether a stage hangs on another one (or is it), by any of its inputs. */
export function hangsOn(design: Design, id: string, above: string): boolean {
  if (id === above) return true;
  const stage = design.supply.stages.find((s) => s.id === id);
  return stage ? feedsOf(stage).some((feed) => hangsOn(design, feed, above)) : false;
}

/** What a stage or rail may be fed from: everything that does not hang on it. */
export function useFeeds(except?: string): [string, string][] {
  const design = useOpenDesign();
  const { sources, stages } = design.supply;
  return [
    ["battery", "the battery"],
    ...sources.map((s): [string, string] => [s.id, s.name]),
    ...stages.filter((s) => !except || !hangsOn(design, s.id, except)).map((s): [string, string] => [s.id, s.name]),
  ];
}

/** Hangs a stage or a rail on something else. */
export function feed(draft: Design, what: SupplySelection, on: string): void {
  const stage = draft.supply.stages.find((s) => s.id === what.id);
  const rail = draft.supply.rails.find((r) => r.id === what.id);
  if (what.kind === "stage" && stage) stage.input = on;
  if (what.kind === "rail" && rail) rail.feed = on;
}
