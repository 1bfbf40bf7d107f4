// Run-down: the battery's voltage from full to dead, when it will end, and afterwards why it lasted longer or shorter than told.
import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import { Answered, useAnswer } from "../../design/fields/answer";
import { FigureButton } from "../../design/fields/figure";
import { QuantityField } from "../../design/fields/fields";
import { useInstruments, useMeasurement } from "../../design/measuring";
import { actions, useDesign, useMayChange, useOpenDesign } from "../../design/store";
import { Along, besideLevels, Chart, Course, Levels, textWidth, tickCount } from "../../ui/chart";
import { Button, Check, Choice, Section } from "../../ui/controls";
import { show } from "../../ui/format";
import { Picture } from "../../ui/picture";
import { Problems } from "../../ui/problems";
import { BringRecording, ChooseRecording, TakeAway, useRecordings, type Trace } from "./recordings";

type Answer = Schemas["RunDown"];
type Log = Schemas["LogOut"];
type Said = Partial<Schemas["SaidOfIt"]>;
const LOOKS_EVERY_MS = 20_000;

/** The run-downs that are logged, looked at again and again while there are some. */
function useLogs() {
  const variant = useDesign((s) => s.variant)!;
  const queries = useQueryClient();
  return useQuery<Log[], ProblemError>({
    queryKey: ["logs", variant.id],
    queryFn: async ({ signal }) => {
      const path = { variant_id: variant.id };
      const rows = await ask(client.GET("/api/variants/{variant_id}/logs", { params: { path }, signal }));
      if (rows.some((l) => l.due)) void queries.invalidateQueries({ queryKey: ["traces", variant.id] });
      return rows;
    },
    refetchInterval: ({ state }) => (state.data?.some((l) => l.due) ? LOOKS_EVERY_MS : false),
  });
}

export function RunDownView() {
  const courses = useRecordings("rundown");
  const logs = useLogs();
  const [chosen, setChosen] = useState<number | null>(null);
  const course = courses.data?.find((t) => t.id === chosen) ?? courses.data?.[0];
  return (
    <div className="space-y-4">
      <BringRecording
        kind="rundown"
        label="The battery's voltage, from full to dead or as far as it is (CSV, also as gzip)"
        onRead={setChosen}
      >
        Columns of time and voltage; a current beside them tells load and cell apart. Leave the gadget to its day, log
        one point a minute or so, and look in on the way. Stay nearby while a lithium cell runs down, and do not let it
        fall below its cut-off.
      </BringRecording>
      <LogOne onBegun={setChosen} />
      <Problems error={courses.error} />
      <ChooseRecording of={courses.data} chosen={course} onChoose={setChosen} />
      {course && <One key={course.id} course={course} log={logs.data?.find((l) => l.trace === course.id)} />}
    </div>
  );
}

/** A run-down logged through an instrument, a point now and then, for as long as it takes. */
function LogOne({ onBegun }: { onBegun: (course: number) => void }) {
  const reach = useInstruments();
  const may = useMayChange();
  const [every, setEvery] = useState(60);
  const [beside, setBeside] = useState<number | null>(null);
  const queries = useQueryClient();
  const { measure, wrong } = useMeasurement((told) => {
    void queries.invalidateQueries({ queryKey: ["logs"] });
    if (told.trace != null) onBegun(told.trace);
  });
  const own = reach.data?.networks.length ? reach.data.instruments : [];
  if (!may || !own.length) return null;
  return (
    <Section title="Log one" className="print:hidden">
      <p className="text-soft mb-2 text-sm">
        A meter at the battery is read now and then, without supplying it, until the battery is at its cut-off. It goes
        on while this page is closed. It cannot switch the gadget off: do that at the cut-off.
      </p>
      <div className="flex flex-wrap items-end gap-2">
        <QuantityField
          label="A point every (30 s to 1 h)"
          dimension="time"
          value={every}
          onCommit={(seconds) => seconds !== null && setEvery(seconds)}
        />
        {own.length > 1 && (
          <Choice
            label="Its current beside it"
            value={beside === null ? "" : String(beside)}
            options={[["", "not read"], ...own.map(({ id, name }): [string, string] => [String(id), `by ${name}`])]}
            onChange={(id) => setBeside(id === "" ? null : Number(id))}
          />
        )}
        {own
          .filter(({ id }) => id !== beside)
          .map(({ id, name }) => (
            <Button
              key={id}
              disabled={measure.isPending}
              onClick={() => measure.mutate({ instrument: id, action: "log", every_s: every, beside })}
            >
              Log with {name}
            </Button>
          ))}
      </div>
      {beside !== null && (
        <p className="text-soft mt-2 text-sm">
          It lies in the battery&apos;s lead and is read at the same moments: let it average over longer than the
          gadget&apos;s bursts. With the current the answer tells load and cell apart.
        </p>
      )}
      {wrong && (
        <p role="alert" className="text-fail mt-2 text-sm">
          {wrong}
        </p>
      )}
    </Section>
  );
}

const ENDED: Record<Exclude<Log["ended"], "">, string> = {
  "cut-off": "Logging ended: the battery is at its cut-off. Disconnect the cell before it falls further.",
  nothing:
    "Logging ended: there was no voltage twice in a row. The protection cut the battery off, or a lead came loose.",
  silent: "Logging ended: the instrument did not answer ten times in a row.",
  gone: "Logging ended: the instrument, or the right to change this gadget, is gone.",
  long: "Logging ended after sixty days.",
  stopped: "Logging was stopped.",
};

/** How a log stands, and how to stop it. */
function Logging({ log }: { log: Log }) {
  const variant = useDesign((s) => s.variant)!;
  const may = useMayChange();
  const queries = useQueryClient();
  const stop = useMutation<void, ProblemError>({
    mutationFn: async () => {
      const path = { variant_id: variant.id, trace_id: log.trace };
      const rows = await ask(client.POST("/api/variants/{variant_id}/traces/{trace_id}/stop", { params: { path } }));
      queries.setQueryData(["logs", variant.id], rows);
    },
  });
  return (
    <div className="mb-2 flex flex-wrap items-center gap-2 text-sm" role="status">
      {log.due ? (
        <>
          <span>
            Logged with {log.instrument}
            {log.beside && ` and ${log.beside} for the current`}, a point every {show(log.every_s, "s")}, until it is at{" "}
            {show(log.until_v, "V")}; the next at {clock(log.due)}.
          </span>
          {may && (
            <Button kind="quiet" busy={stop.isPending} onClick={() => stop.mutate()}>
              Stop logging
            </Button>
          )}
        </>
      ) : (
        log.ended && <span>{ENDED[log.ended]}</span>
      )}
      {log.due && log.problem && <span className="text-watch w-full">The last point is missing: {log.problem}.</span>}
      <Problems error={stop.error} />
    </div>
  );
}

const clock = (at: string) =>
  new Date(at).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit", hourCycle: "h23" });

function One({ course, log }: { course: Trace; log: Log | undefined }) {
  const variant = useDesign((s) => s.variant)!;
  // who only looks tries it for himself; of the others what is said is kept
  const [tried, setTried] = useState<Said>({});
  const mayChange = useMayChange();
  const queries = useQueryClient();
  const said = { over: course.over, at_c: course.at_c, ...tried };
  const keep = useMutation<void, ProblemError, Said>({
    mutationFn: async (more) => {
      const now = await ask(
        client.PUT("/api/variants/{variant_id}/traces/{trace_id}/said", {
          params: { path: { variant_id: variant.id, trace_id: course.id } },
          body: more, // nothing else: what was said a moment ago may still be on its way
        }),
      );
      queries.setQueryData<Trace[]>(["traces", variant.id], (all) => all?.map((t) => (t.id === now.id ? now : t)));
    },
  });
  const say = (more: Said) => (mayChange ? keep.mutate(more) : setTried({ ...tried, ...more }));
  const usual = useOpenDesign().brief.usual_c;
  const asking = useAnswer(["run-down", course.id, said.over, said.at_c, course.samples], (design, signal) =>
    ask(
      client.POST("/api/variants/{variant_id}/traces/{trace_id}/rundown", {
        params: { path: { variant_id: variant.id, trace_id: course.id }, query: said },
        body: design,
        signal,
      }),
    ),
  );
  return (
    <Section title={course.name} aside={<TakeAway trace={course} />}>
      {log && <Logging log={log} />}
      <Answered asking={asking} waiting="Holding it against the battery" nothing="" room="min-h-64">
        {(answer) => (
          <>
            <dl className="flex flex-wrap gap-x-8 gap-y-2">
              {[answer.elapsed, answer.ends, answer.told].map(
                (f) =>
                  f && (
                    <div key={f.label}>
                      <dt className="text-soft text-sm">{f.label}</dt>
                      <dd className="text-lg font-semibold tabular-nums">
                        <FigureButton figure={f} withRange />
                      </dd>
                    </div>
                  ),
              )}
            </dl>
            <p className="mt-2">{answer.sentence}</p>
            {answer.notes.map((note) => (
              <p key={note} className="text-watch text-sm">
                {note}
              </p>
            ))}
            <div className="mt-2 flex flex-wrap items-end gap-x-6 gap-y-2">
              <QuantityField
                label="How warm it was meanwhile"
                dimension="temperature"
                value={said.at_c ?? usual}
                onCommit={(at_c) => say({ at_c })}
              />
              <Check
                label="It was dead at the end"
                checked={said.over ?? answer.over}
                onChange={(over) => say({ over })}
              />
            </div>
            <Problems error={keep.error} />
            <VoltagePicture answer={answer} />
            <Terms answer={answer} />
            {answer.remedy && (
              <p className="mt-2 flex flex-wrap items-center gap-2 text-sm">
                <Button onClick={() => actions.applyRemedy(answer.remedy!.label, answer.remedy!.patch)}>
                  Put it into the design
                </Button>
                <span className="text-soft">
                  {answer.remedy.label}
                  {answer.runtime_h !== null && `; the runtime is then ${show(answer.runtime_h, "h")}`}
                </span>
              </p>
            )}
          </>
        )}
      </Answered>
    </Section>
  );
}

/** Why it lasted longer or shorter: the terms multiply to the whole. */
function Terms({ answer }: { answer: Answer }) {
  if (!answer.terms.length) return null;
  return (
    <table className="mt-3 w-full text-sm">
      <caption className="text-left font-semibold">Why it lasted longer or shorter than told</caption>
      <tbody>
        {answer.terms.map((t) => (
          <tr key={t.name} className="border-line/60 border-b">
            <th scope="row" className="py-1.5 pr-4 text-left font-normal">
              {t.name}
            </th>
            <td className="py-1.5 text-right whitespace-nowrap tabular-nums">
              {show(Math.abs(t.share) * 100, "%")} {t.share < 0 ? "shorter" : "longer"}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function VoltagePicture({ answer }: { answer: Answer }) {
  const { time_h: time, volts, model_time_h: modelTime, model_v: modelV } = answer;
  const end = Math.max(time.at(-1) ?? 0, modelTime.at(-1) ?? 0, answer.ends?.high ?? 0);
  const [least, most] = [Math.min(...volts, ...modelV), Math.max(...volts, ...modelV)];
  const room = Math.max((most - least) * 0.08, 0.02);
  return (
    <Picture
      words={["cut-off", "internal-resistance"]}
      name="run-down"
      label={`Voltage over time: from ${show(volts[0], "V")} to ${show(volts.at(-1), "V")}`}
      table={{ head: ["time [h]", "voltage [V]"], rows: time.map((t, i) => [t, volts[i]!]) }}
    >
      <Chart tall={230}>
        {({ width, em }) => {
          const size = 11.5 * em;
          const [high, low] = [12 * em, 190 * em];
          const y = scaleLinear([least - room, most + room], [low, high]);
          const levels = y.ticks(5);
          const left = besideLevels(
            levels.map((v) => show(v, "V")),
            size,
          );
          const right = width - 10 * em;
          const x = scaleLinear([0, end], [left, right]);
          const ticks = x.ticks(tickCount(right - left, textWidth(show(end, "h"), size) * 1.4, 7));
          const drawn = line(
            ([t]) => x(t),
            ([, v]) => y(v),
          );
          const pairs = (times: number[], values: number[]) => times.map((t, i): [number, number] => [t, values[i]!]);
          const { ends } = answer;
          return (
            <>
              <Levels ticks={levels} scale={y} named={(v) => show(v, "V")} left={left} right={right} size={size} />
              {ends?.low != null && ends.high != null && (
                <rect
                  x={x(ends.low)}
                  y={high}
                  width={Math.max(x(ends.high) - x(ends.low), 1)}
                  height={low - high}
                  fill="var(--ember)"
                  opacity={0.16}
                >
                  <title>{`Ends between ${show(ends.low, "h")} and ${show(ends.high, "h")}`}</title>
                </rect>
              )}
              <Course d={drawn(pairs(modelTime, modelV))} dashed />
              <path d={drawn(pairs(time, volts)) ?? ""} fill="none" stroke="var(--ember)" strokeWidth={2} />
              <Along
                ticks={ticks}
                scale={x}
                named={(t) => show(t, "h")}
                y={low + 18 * em}
                size={size}
                right={right}
                centred
              />
            </>
          );
        }}
      </Chart>
      <p className="text-soft text-sm">
        Drawn out: as recorded. Dashed: the model at what is likeliest, to its end
        {answer.ends && "; shaded: where it ends"}.
      </p>
    </Picture>
  );
}
