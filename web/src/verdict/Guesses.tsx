// What a recipe took for granted and nobody has looked at since: changed, confirmed or measured it leaves the list.
import { Check } from "lucide-react";
import { QuantityField } from "../design/fields/fields";
import { OccasionField } from "../design/fields/dayFields";
import { actions, useDesign } from "../design/store";
import type { Evaluation } from "../design/types";
import { IconButton } from "../ui/controls";
import { show } from "../ui/format";

type Guess = Evaluation["guesses"][number];

export function Guesses() {
  const guesses = useDesign((s) => s.evaluation?.guesses);
  if (!guesses?.length) return null;
  return (
    <section aria-label="Guesses">
      <h2 className="text-lg">Yours to check</h2>
      <p className="text-soft mt-1 text-[0.9375rem]">
        Taken for granted so far; what moves the runtime most stands first. Type what you know, or tick what is so.
      </p>
      <ul className="mt-2 space-y-2">
        {guesses.map((g) => (
          <li key={g.id} className="flex items-end gap-2" data-testid={`guess-${g.id}`}>
            <div className="min-w-0 flex-1">
              <GuessField guess={g} />
            </div>
            {(g.share ?? 0) > 0.005 && (
              <span className="text-soft shrink-0 pb-1.5 text-xs" title="of the runtime's spread">
                {show((g.share ?? 0) * 100, "%")}
              </span>
            )}
            <IconButton
              label={`It is so: ${g.title}`}
              onClick={() =>
                actions.edit("A guess confirmed", (d) => void (d.guesses = d.guesses.filter((x) => x.id !== g.id)))
              }
            >
              <Check size={16} />
            </IconButton>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** The figure itself where it is a plain one, to be typed over. */
function GuessField({ guess }: { guess: Guess }) {
  const design = useDesign((s) => s.design);
  const [, list, i, , k] = guess.where.split("/") as [string, string, string, string | undefined, string | undefined];
  if (list === "parts") {
    const state = design?.parts[Number(i)]?.states[Number(k)];
    if (state?.draw.behaviour === "current")
      return (
        <QuantityField
          label={guess.title}
          value={state.draw.current_a.typical}
          dimension="current"
          path={`${guess.where}/draw/current_a/typical`}
          onCommit={(v) =>
            v !== null &&
            actions.edit(guess.title, (d) => {
              const draw = d.parts[Number(i)]!.states[Number(k)]!.draw;
              if (draw.behaviour === "current") draw.current_a = { typical: v, min: null, max: null };
            })
          }
        />
      );
  }
  if (list === "day" && design) {
    const [events, n] = [i as "sessions" | "wakes", Number(guess.where.split("/")[3])];
    const event = design.day[events][n];
    const mode = design.modes.find((m) => m.id === event?.mode);
    if (mode) return <OccasionField mode={mode} said={guess.value} label={guess.title} />;
  }
  return (
    <p>
      <span className="text-soft block text-sm">{guess.title}</span>
      {guess.value}
    </p>
  );
}
