// Bring-up: what to measure in which order, what it should read in this design, and what a reading says.
import { Trash2 } from "lucide-react";
import { useId } from "react";
import type { Schemas } from "../../api/client";
import { actions, useDesign, useMayChange } from "../../design/store";
import { Button, IconButton, INPUT, Offered } from "../../ui/controls";
import { show } from "../../ui/format";
import { Problems } from "../../ui/problems";
import { useKeptText, useTypedText } from "../../ui/typed";
import { useInstruments, useMeasurement } from "../../design/measuring";
import { type As, Grouped, type Reading, Ticked, TONES, useReading } from "./readings";

type Step = Schemas["BringUpStep"];

const GROUPS: Record<Step["group"], string> = {
  look: "By eye",
  ohms: "With an ohmmeter, nothing connected",
  power: "First power",
  cell: "The cell",
  rails: "Each rail",
  signals: "Wires at rest",
  current: "Each mode",
  charge: "Charging",
  wake: "What wakes it",
};

export function BringUp({
  sheet,
  own,
  others,
  as,
  together,
}: {
  sheet: Schemas["BringUp"];
  own: Map<string, Reading>;
  /** what was read on other prototypes */
  others: readonly Reading[];
  as: As;
  /** all that was read on this one, as one change */
  together: Schemas["TakenReadings"] | undefined;
}) {
  const may = useMayChange();
  const next = sheet.steps.find((s) => s.key === sheet.next && !own.has(s.key));
  return (
    <div className="space-y-4">
      {next && (
        <p className="rounded-card border-line bg-sheet border px-4 py-3 text-sm">
          What narrows the runtime most:{" "}
          <a href={`#step-${next.key}`} className="font-medium underline">
            {next.title}
          </a>
        </p>
      )}
      {together && may && (
        <div className="rounded-card border-line bg-sheet flex flex-wrap items-center gap-x-3 gap-y-2 border px-4 py-3 text-sm print:hidden">
          <Button onClick={() => actions.applyRemedy(together.remedy.label, together.remedy.patch)}>
            Put all {together.taken.length} readings into the design
          </Button>
          <span className="text-soft">The runtime is then {show(together.runtime_h, "h")}</span>
        </div>
      )}
      <Grouped names={GROUPS} steps={sheet.steps}>
        {(s) => (
          <Row
            key={`${as.prototype} ${s.key}`}
            step={s}
            reading={own.get(s.key)}
            others={others.filter((r) => r.step === s.key)}
            as={as}
          />
        )}
      </Grouped>
    </div>
  );
}

/** "1.2 to 2.5 mA, about 1.7 mA" */
function Wanted({ step }: { step: Step }) {
  if (!step.unit) return null;
  const at = (v: number | null | undefined) => show(v, step.unit);
  const { low, high, expected } = step;
  const bounds =
    low !== null && high !== null
      ? `${at(low)} to ${at(high)}`
      : low !== null
        ? `at least ${at(low)}`
        : `at most ${at(high)}`;
  return (
    <p className="mt-1 text-[0.9375rem] tabular-nums">
      <span className="font-semibold">{bounds}</span>
      {expected !== null && <span className="text-soft"> · about {at(expected)}</span>}
    </p>
  );
}

type RowProps = { step: Step; reading: Reading | undefined; as: As };

function Row({ step, reading, others, as }: RowProps & { others: readonly Reading[] }) {
  const may = useMayChange();
  return (
    <li id={`step-${step.key}`} className="scroll-mt-24 break-inside-avoid py-3 first:pt-1 last:pb-1">
      <div className="flex flex-wrap items-start justify-between gap-x-4 gap-y-2">
        <div className="min-w-0 flex-1 basis-72">
          <h3 className="font-semibold">{step.title}</h3>
          <p className="text-soft text-sm">{step.how}</p>
          <Wanted step={step} />
          {step.meter && <p className="text-soft text-sm">{step.meter}</p>}
          {step.caution && <p className="text-fail mt-1 text-sm font-medium">{step.caution}</p>}
        </div>
        {!may ? (
          <Read step={step} reading={reading} />
        ) : step.unit ? (
          <Entry step={step} reading={reading} as={as} />
        ) : (
          <Ticked step={step} reading={reading} as={as} />
        )}
      </div>
      <Others step={step} readings={others} />
      {reading?.judged && <Judgement reading={reading} judged={reading.judged} />}
    </li>
  );
}

/** What was read, for who only looks. */
function Read({ step, reading }: { step: Step; reading: Reading | undefined }) {
  if (!reading) return null;
  return (
    <span className="font-medium tabular-nums">{reading.value === null ? "done" : show(reading.value, step.unit)}</span>
  );
}

/** The same step on other prototypes, beside this one. */
function Others({ step, readings }: { step: Step; readings: readonly Reading[] }) {
  if (!readings.length) return null;
  return (
    <ul aria-label={`Other prototypes: ${step.title}`} className="mt-1 flex flex-wrap gap-x-5 text-sm tabular-nums">
      {readings
        .toSorted((a, b) => a.prototype - b.prototype)
        .map((r) => (
          <li key={r.id}>
            <span className="text-soft">Prototype {r.prototype}: </span>
            <span className={r.judged ? TONES[r.judged.outcome] : ""}>
              {r.value === null ? "done" : show(r.value, step.unit)}
            </span>
          </li>
        ))}
    </ul>
  );
}

/** Where a reading is typed. */
function Entry({ step, reading, as }: RowProps) {
  const id = useId();
  const variant = useDesign((s) => s.variant)!;
  const { text, type, taken } = useKeptText(`reading ${variant.id} ${as.prototype} ${step.key}`);
  const { keep, remove } = useReading(step.key, reading, as, (typed) => typed !== null && taken(typed));
  const left = useTypedText(!!text?.trim(), () => text !== null && keep.mutate(text));
  const shown = text ?? (reading?.value == null ? "" : show(reading.value, step.unit));
  const wrong = keep.error?.message;
  const choices = (keep.error?.more["choices"] as string[] | undefined) ?? [];
  return (
    <div className="w-44">
      <div className="flex items-center gap-1">
        <input
          id={id}
          aria-label={`Reading: ${step.title}`}
          className={INPUT}
          placeholder={`reading, ${step.unit === "A" ? "mA" : step.unit}`}
          autoComplete="off"
          spellCheck={false}
          value={shown}
          aria-invalid={wrong ? true : undefined}
          aria-describedby={wrong ? `${id}-problem` : undefined}
          onChange={(e) => {
            type(e.target.value);
            left.done(false);
          }}
          onBlur={left.left}
          onKeyDown={(e) => {
            if (e.key === "Enter") {
              if (keep.error?.passing) left.done(false); // what was refused is not sent again before it is changed
              left.left();
            }
            if (e.key === "Escape") {
              type(null);
              keep.reset();
            }
          }}
        />
        {reading && (
          <IconButton
            label={`Take the reading away: ${step.title}`}
            onClick={() => remove.mutate()}
            className="print:hidden"
          >
            <Trash2 size={15} aria-hidden />
          </IconButton>
        )}
      </div>
      {step.unit in READ_AS && <ReadIt step={step} as={as} onRead={(read) => keep.mutate(read)} />}
      {wrong && (
        <p id={`${id}-problem`} role="alert" className="text-fail mt-1 text-sm">
          {keep.error?.problems?.[0]?.message ?? wrong}
        </p>
      )}
      <Offered
        texts={choices}
        onPick={(choice) => {
          type(choice);
          keep.mutate(choice);
        }}
      />
      <Problems error={remove.error} />
    </div>
  );
}

/** What an instrument is asked for a step's unit. */
const READ_AS: Record<string, Schemas["MeasureIn"]["what"]> = { A: "current", V: "voltage", "°C": "temperature" };

/** Reads the instrument by whose name it is measured, if that is one that the server reaches. It only measures: what the gadget is supplied by stays as it is. */
function ReadIt({ step, as, onRead }: { step: Step; as: As; onRead: (read: string) => void }) {
  const reach = useInstruments();
  const own = reach.data?.instruments.find((i) => i.name === as.instrument);
  const what = READ_AS[step.unit]!;
  const { measure, wrong } = useMeasurement((told) => told.value != null && onRead(`${told.value} ${step.unit}`));
  if (!own) return null;
  return (
    <div className="print:hidden">
      <Button
        kind="quiet"
        className="mt-1"
        busy={measure.isPending}
        aria-label={`Read it: ${step.title}`}
        onClick={() => measure.mutate({ instrument: own.id, action: "read", what })}
      >
        Read it
      </Button>
      {wrong && (
        <p role="alert" className="text-fail text-sm">
          {wrong}
        </p>
      )}
    </div>
  );
}

function Judgement({ reading, judged }: { reading: Reading; judged: NonNullable<Reading["judged"]> }) {
  const { remedy, runtime_h } = judged;
  return (
    <div className="bg-well/50 mt-2 rounded-md px-3 py-2 text-sm" role="status">
      <p className={`font-medium ${TONES[judged.outcome]}`}>{judged.sentence}</p>
      {!!judged.causes.length && (
        <ol className="mt-1 list-decimal pl-5">
          {judged.causes.map((c) => (
            <li key={c.text}>{c.text}</li>
          ))}
        </ol>
      )}
      {remedy && (
        <p className="mt-2 flex flex-wrap items-center gap-2">
          <Button onClick={() => actions.applyRemedy(remedy.label, remedy.patch)}>Put it into the design</Button>
          <span className="text-soft">
            {judged.outcome === "right" ? "" : "If the gadget is right as it is: "}
            {remedy.label}
            {runtime_h !== null && `; the runtime is then ${show(runtime_h, "h")}`}
          </span>
        </p>
      )}
      <p className="text-soft mt-1 text-xs">
        {[
          new Date(reading.taken).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" }),
          reading.author,
          reading.instrument,
        ]
          .filter(Boolean)
          .join(", ")}
      </p>
    </div>
  );
}
