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
              narrowest gap: <FigureButton figure={fit.margin} className="text-ink" /> more than it needs, room taken{" "}
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
        <div className="@container">
          <div className="grid gap-4 @min-[50rem]:grid-cols-[minmax(0,1fr)_15rem]">
            <Views label="Views" views={views} view={view} choose={choose} />
            <div className="min-w-0 space-y-3">
              <Bodies selected={there} onSelect={setSelected} />
              <PlaceAll />
            </div>
          </div>
        </div>
      </Section>
    </StepPage>
  );
}

/** Every body with its tightest neighbour, and what has no place yet. */
function Bodies({ selected, onSelect }: Looking) {
  const design = useOpenDesign();
  const fit = useShown()?.fit;
  const edit = useDesign((s) => s.edit);
  if (!fit) return null;
  return (
    <section aria-label="Every body and its tightest neighbour">
      <ul className="border-line/60 max-h-[clamp(20rem,calc(100dvh-24rem),48rem)] overflow-y-auto pr-2 text-[0.9375rem]">
        {fit.bodies.map((b) => (
          <li key={b.where} className="border-line/60 border-b py-1 last:border-b-0">
            <div className="flex items-baseline justify-between gap-2">
              <button
                type="button"
                aria-pressed={b.where === selected}
                className={`flex min-h-6 min-w-0 items-center gap-1.5 text-left hover:underline ${b.where === selected ? "font-semibold" : ""}`}
                onClick={() => onSelect(b.where)}
              >
                <StatusMark status={b.status as Status} />
                <span className="truncate">{b.name}</span>
              </button>
              <FigureButton figure={b.gap} className="shrink-0 whitespace-nowrap" />
            </div>
            <p className="text-soft truncate pl-5 text-sm">
              to {b.neighbour}, needs {show(b.needed_mm, "mm")}
            </p>
          </li>
        ))}
        {fit.unplaced.map((u) => (
          <li key={u.where} className="border-line/60 flex items-center justify-between gap-2 border-b py-1">
            <span className="min-w-0">
              <span className="block truncate">{u.name}</span>
              <span className="text-soft text-sm">has no place yet</span>
            </span>
            <Button
              className="shrink-0"
              onClick={() => {
                const [left, , front, , bottom] = fit.walls_mm.map((wall) => wall + fit.clearance_mm);
                edit(`Place ${u.name}`, (d) => place(d, u.where, [left!, front!, bottom!]));
                onSelect(u.where);
              }}
            >
              Place it
            </Button>
          </li>
        ))}
      </ul>
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
    </section>
  );
}
