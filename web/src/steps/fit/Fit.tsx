// Fit: the case and everything in it, in space and to scale from three sides; bodies are dragged or moved with the arrows.
import { useState } from "react";
import { later, Reading } from "../../shell/later";
import { StepPage } from "../../shell/StepPage";
import { fitPack } from "../../design/edits";
import { useDesign, useOpenDesign, useShown } from "../../design/store";
import { Views, type View } from "../../ui/views";
import { Button, Section } from "../../ui/controls";
import { FigureButton } from "../../design/fields/figure";
import { show } from "../../ui/format";
import { StatusMark } from "../../design/fields/status";
import type { Status } from "../../design/types";
import { BodyDetails } from "./BodyDetails";
import { CaseDetails } from "./CaseDetails";
import { bodyAt, bodyName, place } from "./bodies";
import { ABOVE, CaseView, FRONT, RIGHT } from "./CaseView";
import { PlaceAll } from "./PlaceAll";
import { SectionView } from "./SectionView";

const FIT_VIEW = "fit-view";
const Space = later<Looking>(async () => (await import("./InSpace")).InSpace);

type Looking = { selected: string | null; onSelect: (where: string | null) => void };

function InSpace(looking: Looking) {
  return (
    <Reading meanwhile={<p className="text-soft h-[25rem]">Reading the view</p>}>
      <Space.View {...looking} />
    </Reading>
  );
}

function Flat({ selected, onSelect }: Looking) {
  const [x, y, z] = useOpenDesign().enclosure.outer_mm;
  const scale = Math.min(800 / (x + y), 440 / (x + z), 7);
  const looking = { scale, selected, onSelect };
  return (
    <div className="flex flex-wrap items-start gap-x-2 gap-y-1">
      <div className="space-y-1">
        {[ABOVE, RIGHT].map((view) => (
          <CaseView key={view.name} view={view} {...looking} />
        ))}
      </div>
      <CaseView view={FRONT} {...looking} />
    </div>
  );
}

export function Fit() {
  const design = useOpenDesign();
  const shown = useShown();
  const edit = useDesign((s) => s.edit);
  const [selected, setSelected] = useState<string | null>(null);
  const there = selected && bodyAt(design, selected) ? selected : null;
  const fit = shown?.fit;
  const looking = { selected: there, onSelect: setSelected };
  const views: View[] = [
    ["space", "In space", <InSpace key="space" {...looking} />],
    ["flat", "From three sides", <Flat key="flat" {...looking} />],
    ["section", "Cut and measured", <SectionView key="section" {...looking} />],
  ];
  const [view, setView] = useState(() => sessionStorage.getItem(FIT_VIEW) ?? "space");
  const choose = (next: string) => {
    sessionStorage.setItem(FIT_VIEW, next);
    setView(next);
  };
  return (
    <StepPage
      step="fit"
      details={
        there ? (
          <BodyDetails key={there} where={there} close={() => setSelected(null)} />
        ) : (
          <CaseDetails select={setSelected} />
        )
      }
    >
      <Section
        title="In the case"
        aside={
          fit && (
            <span className="text-soft text-[0.9375rem]">
              tightest: <FigureButton figure={fit.margin} className="text-ink" /> to spare, room taken{" "}
              <FigureButton figure={fit.filled} className="text-ink" />
              {fit.balance && (
                <>
                  , centre of mass <FigureButton figure={fit.balance} className="text-ink" /> off the middle
                </>
              )}
            </span>
          )
        }
      >
        <div className="mb-2 flex flex-wrap items-center gap-2">
          <PlaceAll />
        </div>
        <Views label="Views" views={views} view={view} choose={choose} />
      </Section>
      {fit && (
        <Section title="Every body and its tightest neighbour" className="mt-4">
          <table className="w-full text-left text-[0.9375rem]">
            <thead className="text-soft text-sm">
              <tr>
                <th className="pb-1 font-normal">Body</th>
                <th className="pb-1 font-normal">Tightest at</th>
                <th className="pb-1 text-right font-normal">Gap</th>
                <th className="pb-1 text-right font-normal">Needs</th>
              </tr>
            </thead>
            <tbody>
              {fit.bodies.map((b) => (
                <tr key={b.where} className="border-line/60 border-t">
                  <td className="py-1">
                    <button
                      type="button"
                      className="flex min-h-6 items-center gap-2 text-left hover:underline"
                      onClick={() => setSelected(b.where)}
                    >
                      <StatusMark status={b.status as Status} />
                      {b.name}
                    </button>
                  </td>
                  <td className="text-soft py-1">{b.neighbour}</td>
                  <td className="py-1 text-right">
                    <FigureButton figure={b.gap} />
                  </td>
                  <td className="text-soft py-1 text-right">{show(b.needed_mm, "mm")}</td>
                </tr>
              ))}
              {fit.unplaced.map((u) => (
                <tr key={u.where} className="border-line/60 border-t">
                  <td className="py-1">{u.name}</td>
                  <td className="text-soft py-1">has no place yet</td>
                  <td className="py-1 text-right" colSpan={2}>
                    <Button
                      onClick={() => {
                        const [left, , front, , bottom] = fit.walls_mm.map((wall) => wall + fit.clearance_mm);
                        edit(`Place ${u.name}`, (d) => place(d, u.where, [left!, front!, bottom!]));
                        setSelected(u.where);
                      }}
                    >
                      Place it
                    </Button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {fit.bodies.length + fit.unplaced.length === 0 && (
            <p className="text-soft">Nothing has a size yet. Give parts a size in Draw, and the battery one below.</p>
          )}
          {!design.battery.body && (
            <Button
              className="mt-2"
              onClick={() =>
                edit("Give the battery a size", (d) => {
                  fitPack(d);
                })
              }
            >
              Give {bodyName(design, "/battery")} its size
            </Button>
          )}
        </Section>
      )}
    </StepPage>
  );
}
