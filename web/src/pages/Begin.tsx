// Begin with a question: what it is, what it does and how often, what feeds it. The band below moves with each answer.
import { useEffect, useId, useState } from "react";
import { useNavigate } from "react-router";
import { ProblemError, type Schemas } from "../api/client";
import { useBeginning, useBeginningsAhead, useNewGadget, useRecipes, type Answers } from "../api/queries";
import { QuantityField } from "../design/fields/fields";
import { TopBar } from "../shell/TopBar";
import { Button, INPUT, Labelled } from "../ui/controls";
import { range } from "../ui/format";
import { Problems } from "../ui/problems";
import { useTitle } from "../ui/title";
import { VerdictLines } from "../verdict/VerdictBand";

type Recipe = Schemas["Recipe"];
type School = Schemas["Begun"]["supply"];
type Place = NonNullable<Answers["place"]>;

const SUPPLIES: Record<School, [string, string]> = {
  cells: ["Cells that are swapped", "Alkaline, lithium or coin cells from a shop; no charger."],
  pouch: ["Pouch and charger", "A flat lithium cell that stays inside and is charged through a port."],
  swap: ["Rechargeable cells", "Taken out and charged in a charger of their own."],
  bank: ["Power bank", "A ready-made one, in a cradle or beside it."],
};
const PLACES: readonly [Place, string][] = [
  ["indoors", "Indoors"],
  ["outdoors", "Outdoors"],
  ["pocket", "In a pocket or a hand"],
  ["cold", "In real cold"],
];

/** The answers outlive a reload of the page. */
const KEPT = "ember.answers";

function kept(): Answers | null {
  try {
    return JSON.parse(sessionStorage.getItem(KEPT) ?? "null") as Answers | null;
  } catch {
    return null;
  }
}

export function Begin() {
  const recipes = useRecipes();
  const [answers, setAnswers] = useState<Answers | null>(kept);
  useEffect(() => {
    if (answers) sessionStorage.setItem(KEPT, JSON.stringify(answers));
  }, [answers]);
  const beginning = useBeginning(answers);
  useBeginningsAhead(recipes.data, answers === null);
  // while an answer cannot be read, what stands there is from before
  const [last, setLast] = useState(beginning.data);
  if (beginning.data && beginning.data !== last) setLast(beginning.data);
  const shown = beginning.data ?? last;
  const create = useNewGadget();
  const navigate = useNavigate();
  useTitle("New gadget");
  const recipe = recipes.data?.find((r) => r.key === answers?.recipe);
  const set = (more: Partial<Answers>) => setAnswers((a) => a && { ...a, ...more });
  const make = () =>
    answers &&
    create.mutate(
      { from: "answers", answers },
      {
        onSuccess: (project) => {
          sessionStorage.removeItem(KEPT);
          void navigate(`/gadgets/${project.variants[0]?.id}/draw`);
        },
      },
    );
  return (
    <div className="flex min-h-screen flex-col">
      <TopBar />
      <main id="work" tabIndex={-1} className="mx-auto w-full max-w-6xl flex-1 px-4 py-6">
        <h1 className="text-3xl">What will it be?</h1>
        <p className="text-soft mt-1 max-w-prose">
          Pick the kind; everything else has a default that you can change or leave. It becomes a whole design, and what
          was only guessed is listed for you to check.
        </p>
        {recipes.isError && <p role="alert">The recipes could not be fetched. Reload the page to try again.</p>}
        <Kinds recipes={recipes.data ?? []} chosen={answers?.recipe} onChoose={(r) => setAnswers({ recipe: r })} />
        {recipe && answers && (
          <div className="mt-6 grid gap-x-10 gap-y-6 lg:grid-cols-[1.4fr_1fr]">
            <Questions
              key={recipe.key}
              recipe={recipe}
              answers={answers}
              problem={(path) => (beginning.error instanceof ProblemError ? beginning.error.at(path) : undefined)}
              set={set}
            />
            <Outcome beginning={shown} wrong={beginning.error && inWords(beginning.error)} />
          </div>
        )}
      </main>
      {answers && (
        <footer aria-label="Verdict" className="border-line bg-sheet sticky bottom-0 z-20 border-t-2">
          <ul
            className="flex overflow-x-auto lg:grid lg:grid-cols-[1.5fr_1.15fr_1fr_1fr_1fr_1fr_1fr]"
            aria-busy={beginning.isFetching}
          >
            {shown
              ? shown.verdicts.map((v) => (
                  <li
                    key={v.key}
                    title={v.sentence}
                    data-testid={`verdict-${v.key}`}
                    data-status={v.status}
                    className="border-line/60 flex min-h-[84px] min-w-[9.5rem] flex-1 flex-col border-l px-3 py-1.5 first:border-l-0 lg:min-w-0"
                  >
                    <VerdictLines verdict={v} />
                    <span className="text-soft truncate text-xs">
                      {v.key === "runtime" ? range(v.figure.low, v.figure.high, v.figure.unit) : v.about}
                    </span>
                  </li>
                ))
              : Array.from({ length: 7 }, (_, i) => (
                  <li key={i} className="border-line/60 bg-well/40 h-[84px] animate-pulse border-l" aria-hidden />
                ))}
          </ul>
          <div className="border-line flex flex-wrap items-center gap-3 border-t px-4 py-2">
            <Problems error={create.error} />
            <Button kind="strong" onClick={make} busy={create.isPending} disabled={beginning.isError}>
              Make it
            </Button>
            {shown && shown.guesses.length > 0 && (
              <p className="text-soft text-sm">
                {shown.guesses.length === 1 ? "One guess" : `${shown.guesses.length} guesses`} to check then.
              </p>
            )}
          </div>
        </footer>
      )}
    </div>
  );
}

function Kinds({
  recipes,
  chosen,
  onChoose,
}: {
  recipes: readonly Recipe[];
  chosen: string | undefined;
  onChoose: (key: string) => void;
}) {
  return (
    <fieldset className="mt-4">
      <legend className="sr-only">What it is</legend>
      <div className="grid gap-2 sm:grid-cols-2 lg:grid-cols-3">
        {recipes.map((r) => (
          <label
            key={r.key}
            className="border-line bg-sheet has-checked:border-ink has-checked:bg-well/60 has-focus-visible:outline-ember flex cursor-pointer gap-3 rounded-md border p-3 has-focus-visible:outline-2"
          >
            <input
              type="radio"
              name="recipe"
              className="mt-1 accent-(--ink)"
              checked={chosen === r.key}
              onChange={() => onChoose(r.key)}
            />
            <span>
              <span className="block font-medium">{r.name}</span>
              <span className="text-soft block text-sm">{r.about}</span>
            </span>
          </label>
        ))}
      </div>
    </fieldset>
  );
}

function Questions({
  recipe,
  answers,
  problem,
  set,
}: {
  recipe: Recipe;
  answers: Answers;
  problem: (path: string) => string | undefined;
  set: (more: Partial<Answers>) => void;
}) {
  const often = recipe.happens.map((_, i) => answers.often?.[i] ?? "");
  const size = answers.outer_max_mm ?? null;
  const side = (i: number) => (v: number | null) => {
    const sides = (size ?? [80, 80, 80]).map((s, k) => (k === i ? (v ?? s) : s)) as [number, number, number];
    set({ outer_max_mm: v === null ? null : sides });
  };
  return (
    <div className="space-y-5">
      <Line
        label="Name"
        problem={problem("/answers/name")}
        value={answers.name ?? ""}
        placeholder={recipe.gadget}
        onCommit={(name) => set({ name: name || null })}
      />
      {recipe.happens.map((h, i) => (
        <Line
          key={h.mode}
          label={`${h.name}: how long and how often`}
          value={often[i] ?? ""}
          placeholder={h.text}
          problem={problem(`/often/${i}`)}
          onCommit={(text) => set({ often: often.map((t, k) => (k === i ? text : t)) })}
        />
      ))}
      <fieldset>
        <legend className="text-soft mb-1 text-sm">What feeds it</legend>
        <div className="grid gap-1.5 sm:grid-cols-2">
          <Supply
            name="Choose for me"
            about="What serves such a gadget best."
            checked={!answers.supply}
            onChoose={() => set({ supply: null })}
          />
          {(Object.keys(recipe.packs) as School[]).map((s) => (
            <Supply
              key={s}
              name={SUPPLIES[s][0]}
              about={SUPPLIES[s][1]}
              checked={answers.supply === s}
              onChoose={() => set({ supply: s })}
            />
          ))}
        </div>
      </fieldset>
      <div className="grid gap-4 sm:grid-cols-2">
        <QuantityField
          label="Must last"
          value={answers.goal_h ?? recipe.goal_h}
          dimension="time"
          unit="h"
          positive
          onCommit={(v) => set({ goal_h: v })}
        />
        <div>
          <p className="text-soft mb-0.5 text-sm">Not larger than</p>
          <div className="flex items-center gap-1.5">
            {[0, 1, 2].map((i) => (
              <QuantityField
                key={i}
                bare
                label={`Largest size, ${["width", "depth", "height"][i]}`}
                value={size?.[i] ?? null}
                dimension="length"
                optional
                positive
                placeholder="any"
                onCommit={side(i)}
              />
            ))}
          </div>
        </div>
      </div>
      <fieldset>
        <legend className="text-soft mb-1 text-sm">Where it lives</legend>
        <div className="flex flex-wrap gap-x-5 gap-y-1.5">
          {PLACES.map(([key, name]) => (
            <label key={key} className="flex items-center gap-2">
              <input
                type="radio"
                name="place"
                className="accent-(--ink)"
                checked={(answers.place ?? recipe.place) === key}
                onChange={() => set({ place: key })}
              />
              {name}
            </label>
          ))}
        </div>
      </fieldset>
    </div>
  );
}

function Supply(props: { name: string; about: string; checked: boolean; onChoose: () => void }) {
  return (
    <label className="border-line has-checked:border-ink has-checked:bg-well/60 flex cursor-pointer gap-2.5 rounded-md border p-2.5">
      <input
        type="radio"
        name="supply"
        className="mt-1 accent-(--ink)"
        checked={props.checked}
        onChange={props.onChoose}
      />
      <span>
        <span className="block">{props.name}</span>
        <span className="text-soft block text-sm">{props.about}</span>
      </span>
    </label>
  );
}

/** A text that counts once it is entered or left. */
function Line({
  label,
  value,
  placeholder,
  problem,
  onCommit,
}: {
  label: string;
  value: string;
  placeholder: string;
  problem?: string;
  onCommit: (text: string) => void;
}) {
  const id = useId();
  const [draft, setDraft] = useState(value);
  const done = () => draft.trim() !== value && onCommit(draft.trim());
  return (
    <Labelled id={id} label={label} problem={problem}>
      <input
        id={id}
        className={INPUT}
        value={draft}
        placeholder={placeholder}
        maxLength={120}
        autoComplete="off"
        aria-invalid={problem ? true : undefined}
        onChange={(e) => setDraft(e.target.value)}
        onBlur={done}
        onKeyDown={(e) => e.key === "Enter" && done()}
      />
    </Labelled>
  );
}

/** Why there is nothing new: an answer that is said at its field, or no connection. */
const inWords = (error: Error): string =>
  !(error instanceof ProblemError) || error.passing
    ? "There is no connection to work it out by; what stands here is from before."
    : "An answer can't be used; what stands here is from before it.";

function Outcome({ beginning, wrong }: { beginning: Schemas["Begun"] | undefined; wrong: string | null }) {
  if (!beginning) return wrong ? <p role="alert">{wrong}</p> : <p className="text-soft">Putting it together</p>;
  const { made_of, guesses } = beginning;
  return (
    <section aria-label="What comes of it" className="border-line border-l-2 pl-5">
      <h2 className="text-xl">{beginning.design.name}</h2>
      <p className={beginning.met ? "text-soft mt-1" : "text-watch mt-1"} role="status">
        {wrong ?? beginning.sentence}
      </p>
      <h3 className="text-soft mt-4 text-sm">Made of</h3>
      <ul className="mt-1 space-y-0.5">
        {made_of.map((name, i) => (
          <li key={i}>{name}</li>
        ))}
      </ul>
      {guesses.length > 0 && (
        <>
          <h3 className="text-soft mt-4 text-sm">Guessed, what moves the runtime most first</h3>
          <ul className="mt-1 space-y-0.5">
            {guesses.slice(0, 5).map((g) => (
              <li key={g.id} className="flex justify-between gap-3">
                <span className="min-w-0 truncate">{g.title}</span>
                <span className="tabular-nums">{g.value}</span>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}
