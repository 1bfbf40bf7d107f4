// The runtime over temperature and over the years.
import { ask, client, type Schemas } from "../../api/client";
import { useOpenDesign } from "../../design/store";
import { Answered, useAnswer } from "../../design/fields/answer";
import { Section } from "../../ui/controls";
import { RuntimeCurve, type CurvePoint } from "./RuntimeCurve";

const placed = (points: Schemas["OutlookPoint"][]): CurvePoint[] =>
  points.map((p) => ({ at: p.at, hours: p.hours, more: p.full_charges }));

export function Outlook() {
  const { brief } = useOpenDesign();
  const asking = useAnswer(["outlook"], (design, signal) =>
    ask(client.POST("/api/answers/outlook", { body: design, signal })),
  );
  return (
    <Answered
      asking={asking}
      waiting="Trying cold, heat and years"
      nothing="Add a part in Draw, and its runtime is drawn here."
    >
      {(answer) => (
        <div className="grid items-start gap-4 xl:grid-cols-2">
          <Section title="Over temperature">
            <p className="text-soft mb-1">{answer.temperature_sentence}</p>
            <RuntimeCurve
              name="runtime-over-temperature"
              points={placed(answer.temperature)}
              unit="°C"
              label={answer.temperature_sentence}
              goal={brief.goal_h ?? null}
              marked={[brief.coldest_c, brief.usual_c, brief.hottest_c]}
            />
          </Section>
          <Section title="Over the years">
            <p className="text-soft mb-1">
              {answer.age_sentence}{" "}
              {answer.goal_year !== null &&
                (answer.goal_year === answer.age[0]?.at
                  ? "It misses the goal from the start."
                  : `From year ${answer.goal_year} on it misses the goal.`)}
            </p>
            <RuntimeCurve
              name="runtime-over-years"
              points={placed(answer.age)}
              more="full charges so far"
              unit="years"
              label={answer.age_sentence}
              goal={brief.goal_h ?? null}
              marked={[]}
            />
          </Section>
        </div>
      )}
    </Answered>
  );
}
