// How often it wakes: the runtime against the interval, and from where on a longer one brings little.
import { ask, client } from "../../api/client";
import { useOpenDesign } from "../../design/store";
import { useAnswer } from "../../design/fields/answer";
import { Section } from "../../ui/controls";
import { RuntimeCurve } from "./RuntimeCurve";

export function Intervals() {
  const { brief } = useOpenDesign();
  const { data, fresh } = useAnswer(["intervals"], (design, signal) =>
    ask(client.POST("/api/answers/intervals", { body: design, signal })),
  );
  return (
    <div
      aria-busy={!fresh || undefined}
      className={`mt-4 grid items-start gap-4 xl:grid-cols-2 ${fresh ? "" : "opacity-60 transition-opacity delay-200"}`}
    >
      {(data ?? []).map((curve) => (
        <Section key={curve.wake} title={`${curve.name}: how often`}>
          <p className="text-soft mb-1">{curve.sentence}</p>
          <RuntimeCurve
            name={`runtime-over-interval-${curve.wake}`}
            points={curve.points.map((p) => ({ at: p.every_s, hours: p.hours }))}
            unit="s"
            label={`${curve.name}: ${curve.sentence}`}
            goal={brief.goal_h ?? null}
            marked={[curve.now_s]}
            knee={curve.knee_s}
          />
        </Section>
      ))}
    </div>
  );
}
