// Typed fields. A quantity is read by the core's own parser, so "120mA", "0.12 A" and "3 min" all work everywhere
// and mean the same everywhere; what it cannot read stays in the field with the reason below it.
import { useEffect, useId, useState, type KeyboardEvent } from "react";
import { ask, client, ProblemError } from "../../api/client";
import { openDocument, useProblemAt } from "../store";
import { INPUT, Labelled, Offered } from "../../ui/controls";
import { editable } from "../../ui/format";
import { keptIn, readPlainly, type Dimension } from "../../ui/reading";
import { setPending, useTypedText } from "../../ui/typed";

// a bare number in these is not doubtful: everybody means millimetres, grams, degrees and volts
const ASSUMED: Partial<Record<Dimension, string>> = {
  length: "mm",
  mass: "g",
  temperature: "°C",
  voltage: "V",
};

export type Span = { typical: number; min: number | null; max: number | null };

/** A figure, or with `ranges` one with its range: "100-140 mA", "120 mA ± 20 %". */
async function readSpan(text: string, dimension: Dimension, ranges: boolean): Promise<Span> {
  const bare = /^[-+−]?[\d., /]+$/.test(text.trim());
  const full = bare && ASSUMED[dimension] ? `${text} ${ASSUMED[dimension]}` : text;
  const plain = readPlainly(full, dimension);
  if (plain !== null) return { typical: plain, min: null, max: null };
  const query = { text: full, dimension, ranges };
  const { value, min = null, max = null } = await ask(client.GET("/api/quantity", { params: { query } }));
  return { typical: value, min, max };
}

export const readQuantity = async (text: string, dimension: Dimension): Promise<number> =>
  (await readSpan(text, dimension, false)).typical;

/** Texts that were refused, or are still being read: they wait for their field if it goes away, as long as its figure is still
 * the same. */
const waitingTexts = new Map<
  string,
  { draft: string; shown: string; problem?: Wrong; outcome: Promise<Wrong | undefined> }
>();

/** Why a text was not taken, and texts that would be. */
type Wrong = { message: string; choices?: string[] };

/** What is said at a field whose text the core refused, or could not be asked about. */
const refused = (error: unknown, besides = ""): Wrong =>
  error instanceof ProblemError && !error.passing
    ? { message: error.message, choices: error.more["choices"] as string[] | undefined }
    : { message: `There is no connection to read this by${besides}.` };

/** A text that is being edited: kept until it is committed by Enter or by leaving it in any way, given up by Escape.
 * Between edits the document's own figure is shown. */
function useEditedText(shown: string, commit: (text: string) => Promise<Wrong | undefined>, place: string | undefined) {
  const key = place && `${openDocument().variant?.id} ${place}`;
  const [waiting] = useState(() => {
    const found = key ? waitingTexts.get(key) : undefined;
    return found?.shown === shown ? found : undefined;
  });
  const [draft, setDraft] = useState<string | null>(waiting?.draft ?? null);
  const [problem, setProblem] = useState<Wrong | undefined>(waiting?.problem);
  useEffect(() => {
    let here = true;
    void waiting?.outcome.then((wrong) => {
      if (!here) return;
      setProblem(wrong);
      if (!wrong) setDraft((now) => (now === waiting.draft ? null : now));
    });
    return () => void (here = false);
  }, [waiting]);
  const forget = () => {
    if (!key) return;
    setPending(key, false);
    waitingTexts.delete(key);
  };
  const put = async (text: string) => {
    const outcome = commit(text);
    if (!key) return outcome;
    setPending(key, true);
    waitingTexts.set(key, { draft: text, shown, outcome });
    const problem = await outcome;
    if (waitingTexts.get(key)?.outcome !== outcome) return problem; // given up, or typed anew
    if (problem) waitingTexts.set(key, { draft: text, shown, problem, outcome });
    else forget();
    return problem;
  };
  const take = async (text: string) => {
    const wrong = await put(text);
    setProblem(wrong);
    if (!wrong) setDraft((now) => (now === draft || text !== draft ? null : now)); // what was typed meanwhile stays
  };
  const done = async () => {
    if (draft !== null) await take(draft);
  };
  useTypedText(draft !== null, () => draft !== null && void put(draft));
  return {
    problem,
    take,
    input: {
      value: draft ?? shown,
      "data-settled": draft === null ? "" : undefined,
      onChange: (e: { target: { value: string } }) => setDraft(e.target.value),
      onBlur: () => void done(),
      onKeyDown: (e: KeyboardEvent) => {
        if (e.key === "Enter" && !(e.target instanceof HTMLTextAreaElement)) void done();
        if (e.key === "Escape") {
          setDraft(null);
          setProblem(undefined);
          forget();
        }
      },
    },
  };
}

type QuantityProps = {
  label: string;
  value: number | null | undefined;
  dimension: Dimension;
  /** the unit of `value`; times may be kept in hours */
  unit?: "h";
  onCommit: (value: number | null) => void;
  /** takes a range too, where the figure has one */
  onSpan?: (span: Span) => void;
  optional?: boolean;
  /** 0 is refused at the field */
  positive?: boolean;
  path?: string;
  hint?: string;
  placeholder?: string;
  bare?: boolean;
};

export function QuantityField({
  label,
  value,
  dimension,
  unit,
  onCommit,
  onSpan,
  optional = false,
  positive = false,
  path,
  hint,
  placeholder,
  bare = false,
}: QuantityProps) {
  const id = useId();
  const found = useProblemAt(path);
  const { problem, take, input } = useEditedText(
    editable(value, unit ?? keptIn(dimension)),
    async (text) => {
      if (!text.trim()) {
        if (!optional) return { message: "must not be empty" };
        onCommit(null);
        return undefined;
      }
      try {
        const { typical: read, min, max } = await readSpan(text, dimension, onSpan !== undefined);
        if (onSpan && min !== null && max !== null) {
          onSpan({ typical: read, min, max });
          return undefined;
        }
        if (positive && read <= 0) return { message: "must be above 0" };
        onCommit(unit === "h" ? read / 3600 : read);
        return undefined;
      } catch (error) {
        return refused(error, "; plain figures like “120 mA” are read without one");
      }
    },
    path,
  );
  const wrong = problem?.message ?? found;
  const field = (
    <input
      id={id}
      {...input}
      data-path={path}
      inputMode="text"
      autoComplete="off"
      spellCheck={false}
      aria-label={bare ? label : undefined}
      aria-invalid={wrong ? true : undefined}
      aria-describedby={wrong ? `${id}-problem` : hint ? `${id}-hint` : undefined}
      placeholder={placeholder ?? (optional ? "not set" : undefined)}
      className={INPUT}
    />
  );
  const choices = <Offered texts={problem?.choices ?? []} onPick={(choice) => void take(choice)} />;
  if (!bare)
    return (
      <div className="min-w-0">
        <Labelled id={id} label={label} hint={hint} problem={wrong}>
          {field}
        </Labelled>
        {choices}
      </div>
    );
  return (
    <div>
      {field}
      {wrong && (
        <p id={`${id}-problem`} role="alert" className="text-fail mt-1 text-sm">
          {wrong}
        </p>
      )}
      {choices}
    </div>
  );
}

type SaidProps = {
  label: string;
  value: string;
  /** reads the text and edits the document by it; raises ProblemError */
  onCommit: (text: string) => Promise<void>;
  path?: string;
  placeholder?: string;
};

/** A text that the core reads whole, like "2 s every 15 min". */
export function SaidField({ label, value, onCommit, path, placeholder }: SaidProps) {
  const id = useId();
  const { problem, take, input } = useEditedText(
    value,
    async (text) => {
      try {
        await onCommit(text);
        return undefined;
      } catch (error) {
        return refused(error);
      }
    },
    path,
  );
  return (
    <div className="min-w-0">
      <Labelled id={id} label={label} problem={problem?.message}>
        <input
          id={id}
          {...input}
          autoComplete="off"
          spellCheck={false}
          placeholder={placeholder}
          aria-invalid={problem ? true : undefined}
          className={INPUT}
        />
      </Labelled>
      <Offered texts={problem?.choices ?? []} onPick={(choice) => void take(choice)} />
    </div>
  );
}

type TextProps = {
  label: string;
  value: string;
  onCommit: (value: string) => void;
  path?: string;
  lines?: number;
  required?: boolean;
  bare?: boolean;
  max?: number;
  placeholder?: string;
};

export function TextField({
  label,
  value,
  onCommit,
  path,
  lines,
  required,
  bare = false,
  max = 120,
  placeholder,
}: TextProps) {
  const id = useId();
  const found = useProblemAt(path);
  const { problem, input } = useEditedText(
    value,
    async (text) => {
      if (required && !text.trim()) return { message: "must not be empty" };
      onCommit(text.trim());
      return undefined;
    },
    path,
  );
  const wrong = problem?.message ?? found;
  const common = {
    id,
    ...input,
    "data-path": path,
    maxLength: max,
    placeholder,
    "aria-label": bare ? label : undefined,
    "aria-invalid": wrong ? (true as const) : undefined,
    className: INPUT,
  };
  const field = lines ? <textarea {...common} rows={lines} /> : <input {...common} autoComplete="off" />;
  return bare ? (
    field
  ) : (
    <Labelled id={id} label={label} problem={wrong}>
      {field}
    </Labelled>
  );
}

/** Three lengths in a row: width, depth, height. */
export function SizeField({
  label,
  value,
  onCommit,
  path,
  names = ["width", "depth", "height"],
}: {
  label: string;
  value: readonly [number, number, number];
  onCommit: (value: [number, number, number]) => void;
  path?: string;
  names?: readonly [string, string, string];
}) {
  const replace = (i: number, v: number) => {
    const next: [number, number, number] = [...value];
    next[i] = v;
    onCommit(next);
  };
  return (
    <fieldset className="min-w-0">
      <legend className="text-soft mb-0.5 text-sm">{label}</legend>
      <div className="grid grid-cols-3 gap-1.5">
        {names.map((name, i) => (
          <QuantityField
            key={name}
            bare
            label={`${label}, ${name}`}
            value={value[i]}
            dimension="length"
            path={path ? `${path}/${i}` : undefined}
            onCommit={(v) => v !== null && replace(i, v)}
          />
        ))}
      </div>
    </fieldset>
  );
}
