// The fall from the printed capacity to what the gadget gets, loss by loss.
import { useShown } from "../../design/store";
import type { Evaluation } from "../../design/types";
import { FigureButton } from "../../design/fields/figure";
import { Picture } from "../../ui/picture";

type Report = Evaluation["battery"];

/** Each step as a bar on the scale of the printed capacity: a loss hangs where the ones before it ended. */
function asBars({ steps, printed }: Report) {
  const whole = printed.value ?? 1;
  let level = whole;
  return steps.map((step) => {
    const amount = step.charge.value ?? 0;
    if (step.lost) level -= amount;
    return { step, from: step.lost ? level / whole : 0, width: amount / whole };
  });
}

export function CapacitySteps() {
  const shown = useShown();
  if (!shown) return null;
  const { steps } = shown.battery;
  const bars = asBars(shown.battery);
  return (
    <>
      <Picture
        words={["capacity", "self-discharge", "unavailable-charge"]}
        name="capacity"
        label="The rated capacity, each loss, and what is left for the gadget"
        table={{ head: ["step", "charge [Ah]"], rows: steps.map((s) => [s.label, s.charge.value]) }}
      >
        <svg viewBox={`0 0 480 ${bars.length * 18 + 2}`} className="w-full">
          {bars.map(({ step, from, width }, i) => (
            <rect
              key={step.label}
              x={from * 478 + 1}
              y={i * 18 + 2}
              width={Math.max(width * 478, 1.5)}
              height="14"
              rx="2.500"
              fill={step.lost ? "var(--well)" : "var(--ember)"}
              stroke={step.lost ? "var(--ember)" : "none"}
              opacity={i === 0 ? 0.45 : 1}
            />
          ))}
        </svg>
      </Picture>
      <dl className="mt-1 text-[0.9375rem]">
        {steps.map((s) => (
          <div
            key={s.label}
            className="border-line/60 flex justify-between gap-3 border-b py-0.5 last:border-0 last:font-semibold"
          >
            <dt className={s.lost ? "text-soft" : ""}>{s.label}</dt>
            <dd>
              {s.lost && "− "}
              <FigureButton figure={s.charge} />
            </dd>
          </div>
        ))}
      </dl>
    </>
  );
}
