// Runtime: how long it lasts, what fails first, what the day is made of, and what would help most.
import { StepPage } from "../../shell/StepPage";
import { useDesign, useShown } from "../../design/store";
import { Section } from "../../ui/controls";
import { FigureButton } from "../../ui/figure";
import { show } from "../../ui/format";
import { RemedyButtons } from "../../verdict/Findings";
import { DayEditor } from "./DayEditor";
import { FallPicture } from "./FallPicture";

export function Runtime() {
  const shown = useShown();
  return (
    <StepPage step="runtime">
      <Section
        title="The fall of charge and voltage"
        aside={
          shown && (
            <span className="text-[0.9375rem]">
              <FigureButton figure={shown.runtime.total} withRange className="font-display text-lg" />
              <span className="text-soft ml-3">
                at the coldest <FigureButton figure={shown.runtime.coldest} className="text-ink" />
              </span>
            </span>
          )
        }
      >
        {shown && <p className="text-soft -mt-2 mb-1">{shown.runtime.sentence}</p>}
        <FallPicture />
      </Section>
      <Section title="A day in its life" className="mt-4">
        <DayEditor />
      </Section>
      <div className="mt-4 grid items-start gap-4 xl:grid-cols-2">
        <Section title="What would help most">
          <Savings />
        </Section>
        <Section title="What to measure next">
          <Influences />
        </Section>
      </div>
    </StepPage>
  );
}

function Savings() {
  // not those of a preview: the list must not run away under the pointer
  const savings = useDesign((s) => s.evaluation?.savings) ?? [];
  if (!savings.length) return <p className="text-soft">No lever gains anything here.</p>;
  return (
    <ul className="divide-line/70 divide-y">
      {savings.map((s) => (
        <li key={s.code + s.title} className="py-2.5 first:pt-0" data-testid={`saving-${s.code}`}>
          <div className="flex items-baseline justify-between gap-3">
            <h3 className="text-base leading-snug">{s.title}</h3>
            <span className="font-display text-ember-ink text-lg whitespace-nowrap">
              + <FigureButton figure={s.gained} />
            </span>
          </div>
          <p className="text-soft text-sm">{s.sentence}</p>
          <p className="text-soft text-sm">{s.side_effect}</p>
          <RemedyButtons remedy={s.remedy} />
        </li>
      ))}
    </ul>
  );
}

function Influences() {
  const rows = useShown()?.runtime.influences ?? [];
  return (
    <>
      <p className="text-soft mb-2 text-sm">The share of the runtime’s range that each uncertain figure owns.</p>
      <ul className="space-y-1.5">
        {rows
          .filter((r) => r.share >= 0.005)
          .map((r) => (
            <li key={r.name}>
              <div className="flex justify-between gap-3 text-[0.9375rem]">
                <span className="truncate">{r.name}</span>
                <span className="text-soft whitespace-nowrap">
                  {show(r.share, "share")}
                  <span className="sr-only"> of the range</span>
                </span>
              </div>
              <div className="bg-well h-1.5 rounded-full" aria-hidden>
                <div className="bg-watch h-full rounded-full" style={{ width: `${r.share * 100}%` }} />
              </div>
            </li>
          ))}
      </ul>
    </>
  );
}
