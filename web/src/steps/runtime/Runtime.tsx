// Runtime: how long it lasts, what fails first, what the day is made of, and what would help most.
import { useState } from "react";
import { Link } from "react-router";
import { StepPage } from "../../shell/StepPage";
import { useOpenDesign, useShown } from "../../design/store";
import { Empty, Section } from "../../ui/controls";
import { FigureButton } from "../../design/fields/figure";
import { Views, type View } from "../../ui/views";
import { DayView } from "./DayView";
import { FallPicture } from "./FallPicture";
import { Firmware } from "./Firmware";
import { HowSure } from "./HowSure";
import { Intervals } from "./Intervals";
import { Outlook } from "./Outlook";
import { Savings } from "./Savings";

const VIEWS: View[] = [
  ["day", "The day", <DayView key="day" />],
  [
    "savings",
    "What would help",
    <div key="savings">
      <Savings />
      <Intervals />
    </div>,
  ],
  ["sure", "How sure it is", <HowSure key="sure" />],
  ["outlook", "Cold, heat and years", <Outlook key="outlook" />],
  ["firmware", "For the firmware", <Firmware key="firmware" />],
];

export function Runtime() {
  const shown = useShown();
  const design = useOpenDesign();
  const [view, setView] = useState(() => sessionStorage.getItem("runtime-view") ?? "day");
  const choose = (next: string) => {
    sessionStorage.setItem("runtime-view", next);
    setView(next);
  };
  if (!design.parts.length)
    return (
      <StepPage step="runtime">
        <Empty title="Nothing draws yet">
          <p>With the first part and its current there is a first runtime; what happens in a day can be said before.</p>
          <Link to="../draw" relative="path" className="text-ink mt-3 inline-block underline underline-offset-2">
            Take the first part
          </Link>
        </Empty>
        <Views label="More about the runtime" views={VIEWS} view="day" choose={choose} className="mt-4" />
      </StepPage>
    );
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
        {shown && (
          <p className="text-soft -mt-2 mb-1">
            {shown.runtime.sentence} {shown.runtime.typical_sentence} {shown.runtime.cold_sentence}
          </p>
        )}
        <FallPicture />
      </Section>
      <Views label="More about the runtime" views={VIEWS} view={view} choose={choose} className="mt-4" />
    </StepPage>
  );
}
