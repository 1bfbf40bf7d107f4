// How warm everything gets: the case in section, and how far each thing is from what it stands.
import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { Answered, useAnswer } from "../../design/fields/answer";
import { FigureButton } from "../../design/fields/figure";
import { useShown } from "../../design/store";
import { Choice, Section } from "../../ui/controls";
import { show } from "../../ui/format";
import { Picture } from "../../ui/picture";
import { Row } from "../../ui/row";
import { CaseInAir } from "./CaseInAir";
import { HeatPicture } from "./HeatPicture";
import { FILL } from "./fill";

export function HeatView() {
  const shown = useShown();
  const [chosen, choose] = useState<string | null>(null);
  const asking = useAnswer(["heat"], (body, signal) => ask(client.POST("/api/answers/heat", { body, signal })));
  const answer = asking.data;
  return (
    <div className="space-y-4">
      <Answered asking={asking} waiting="Warming it up" nothing="Add a part in Draw, and its warmth is drawn here.">
        {(found) => <CaseCut answer={found} chosen={chosen} choose={choose} />}
      </Answered>
      <div className="grid items-start gap-4 xl:grid-cols-2">
        {answer && (
          <Section title="How far from the limits">
            <Limits limits={answer.limits} />
          </Section>
        )}
        <div className="space-y-4">
          <CaseInAir />
          {shown && answer && (
            <Section title="The case as it holds heat">
              <dl className="grid grid-cols-2 gap-x-3 gap-y-1">
                <Row name="air inside in use">
                  <FigureButton figure={shown.heat.running} withRange />
                </Row>
                {shown.heat.charging && (
                  <Row name="air inside while charging">
                    <FigureButton figure={shown.heat.charging} withRange />
                  </Row>
                )}
                <Row name="outside, at its worst to touch">
                  <FigureButton figure={shown.heat.outer} />
                </Row>
                <Row name="it takes to warm up">
                  <FigureButton figure={answer.time_constant} />
                </Row>
                <Row name="out of the vents">
                  <FigureButton figure={answer.vented} />
                </Row>
                <Row name="air to the wall">{show(answer.gap_mm, "mm")}</Row>
              </dl>
            </Section>
          )}
        </div>
      </div>
    </div>
  );
}

/** `chosen` is a mode's id; charging has none. */
type CutProps = { answer: Schemas["HeatAnswer"]; chosen: string | null; choose: (mode: string) => void };

function CaseCut({ answer, chosen, choose }: CutProps) {
  const warmest = [...answer.rows].sort((a, b) => b.inside_c - a.inside_c)[0];
  const row = answer.rows.find((r) => r.mode === chosen) ?? warmest;
  if (!row) return <p className="text-soft">No mode is in any day yet; give one its time in Runtime.</p>;
  return (
    <Section
      title="The case in section"
      aside={
        <div className="w-56">
          <Choice
            bare
            label="While"
            value={row.mode}
            options={answer.rows.map(
              (r) =>
                [
                  r.mode,
                  r.mode ? `while ${r.name.toLowerCase()}${r.days && `, ${r.days}`}` : "while it charges",
                ] as const,
            )}
            onChange={choose}
          />
        </div>
      }
    >
      <p className="text-soft mb-1 text-[0.9375rem]">
        {row.mode ? "At the end of its longest stretch" : "At the worst moment of the charge"}, where it is{" "}
        {show(row.surroundings_c, "°C")} around it.
        {answer.capped &&
          " So much heat that nothing here holds any more: temperatures are cut at 150 °C above the surroundings."}
      </p>
      <HeatPicture answer={answer} row={row} />
    </Section>
  );
}

function Limits({ limits }: { limits: Schemas["HeatLimit"][] }) {
  const [all, setAll] = useState(false);
  const rows = all ? limits : limits.slice(0, 8);
  return (
    <Picture
      words={["rth", "touch-limit"]}
      name="heat-limits"
      drawn={false}
      label="How far each thing is from what it stands"
      table={{
        head: ["what", "reaches [°C]", "limit [°C]", "while", "why"],
        rows: limits.map((l) => [l.name, l.value_c, l.limit_c, l.when.toLowerCase(), l.why]),
      }}
    >
      <ul className="space-y-2">
        {rows.map((l) => (
          <li key={l.key}>
            <div className="flex items-baseline justify-between gap-3 text-[0.9375rem]">
              <span className="min-w-0">{l.name}</span>
              <span className="shrink-0 tabular-nums">
                {show(l.value_c, "°C")} <span className="text-soft">of {show(l.limit_c, "°C")}</span>
              </span>
            </div>
            <div className="bg-well mt-0.5 h-2.5 rounded-full" aria-hidden>
              <div
                className={`h-full rounded-full ${FILL[l.status]}`}
                style={{ width: `${Math.min(Math.max((l.value_c / l.limit_c) * 100, 2), 100)}%` }}
              />
            </div>
            <p className="text-soft mt-0.5 text-sm">
              {l.room}, while {l.when.toLowerCase()}; {l.why}
            </p>
          </li>
        ))}
      </ul>
      {limits.length > 8 && (
        <button
          type="button"
          className="hover:text-ink text-soft mt-2 min-h-8 text-sm underline"
          onClick={() => setAll(!all)}
        >
          {all ? "Only the nearest" : `All ${limits.length}`}
        </button>
      )}
    </Picture>
  );
}
