// Traces: a recorded current is brought, cut into the design's modes, drawn, and held against the design.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { useId, useRef, useState } from "react";
import { ask, client, ProblemError, type Schemas } from "../../api/client";
import { done } from "../../api/jobs";
import { upload } from "../../api/upload";
import { Answered, useAnswer } from "../../design/fields/answer";
import { FigureButton } from "../../design/fields/figure";
import { actions, useDesign } from "../../design/store";
import { Button, IconButton, INPUT, Section } from "../../ui/controls";
import { show } from "../../ui/format";
import { Problems } from "../../ui/problems";
import { PickedPiece, SaidByHand } from "./PickedPiece";
import { Tone, TracePicture, type Window } from "./TracePicture";

type Trace = Schemas["TraceOut"];
type Answer = Schemas["TraceAnswer"];
type Read = Schemas["TraceRead"];

export function TracesView() {
  const variant = useDesign((s) => s.variant)!;
  const path = { variant_id: variant.id };
  const traces = useQuery<Trace[], ProblemError>({
    queryKey: ["traces", variant.id],
    queryFn: ({ signal }) => ask(client.GET("/api/variants/{variant_id}/traces", { params: { path }, signal })),
  });
  const [chosen, setChosen] = useState<number | null>(null);
  const trace = traces.data?.find((t) => t.id === chosen) ?? traces.data?.[0];
  return (
    <div className="space-y-4">
      <Bring onRead={setChosen} />
      <Problems error={traces.error} />
      {!!traces.data?.length && (
        <div role="group" aria-label="Recordings" className="flex flex-wrap gap-1.5">
          {traces.data.map((t) => (
            <Button
              key={t.id}
              kind={t.id === trace?.id ? "strong" : "plain"}
              aria-pressed={t.id === trace?.id}
              onClick={() => setChosen(t.id)}
            >
              {t.name}
            </Button>
          ))}
        </div>
      )}
      {trace && <One key={trace.id} trace={trace} />}
    </div>
  );
}

/** A file brought, read by the server, and asked about where it does not say a unit. */
function Bring({ onRead }: { onRead: (trace: number) => void }) {
  const variant = useDesign((s) => s.variant)!;
  const queries = useQueryClient();
  const id = useId();
  const [share, setShare] = useState(0);
  const ending = useRef(new AbortController());
  const file = useRef<File | null>(null);
  const units = useRef<Record<string, string>>({});
  const read = useMutation<Read>({
    mutationFn: async () => {
      const { signal } = ending.current;
      setShare(0);
      const digest = await upload(file.current!, (s) => setShare(s / 2), signal);
      const body = { digest, variant: variant.id, units: units.current };
      const job = await done(ask(client.POST("/api/jobs/trace", { body })), (s) => setShare(0.5 + s / 2), signal);
      if (!job.trace) throw new Error(job.problem ? `The file can't be used: ${job.problem}` : "It was given up.");
      return job.trace;
    },
    onSuccess: async (found) => {
      if (found.trace == null) return;
      await queries.invalidateQueries({ queryKey: ["traces", variant.id] });
      onRead(found.trace);
    },
  });
  const bring = (next: File) => {
    ending.current = new AbortController();
    file.current = next;
    units.current = {};
    read.mutate();
  };
  const problem = read.error && read.error.name !== "AbortError" ? read.error : null;
  return (
    <div
      className="rounded-card border-line bg-sheet border px-4 py-3 print:hidden"
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        e.stopPropagation();
        const dropped = e.dataTransfer.files[0];
        if (dropped && !read.isPending) bring(dropped);
      }}
    >
      <label htmlFor={id} className="block font-medium">
        A recorded current (CSV of time and current, also as gzip)
      </label>
      <p className="text-soft mb-2 text-sm">
        From a shunt, a meter or a supply that logs. It is cut into this gadget&apos;s modes, and each is held against
        its estimate.
      </p>
      <input
        id={id}
        type="file"
        accept=".csv,.txt,.tsv,.gz"
        className={INPUT}
        disabled={read.isPending}
        onChange={(e) => {
          const next = e.target.files?.[0];
          e.target.value = "";
          if (next) bring(next);
        }}
      />
      {read.isPending && (
        <div className="mt-2 flex items-center gap-2 text-sm" role="status">
          <progress className="grow" value={share} aria-label="Reading the recording" />
          <Button kind="quiet" onClick={() => ending.current.abort()}>
            Give up
          </Button>
        </div>
      )}
      {read.data?.asked && !read.isPending && (
        <fieldset className="mt-2 text-sm">
          <legend className="text-watch">The file does not say what its {read.data.asked} is in. It is in</legend>
          <div className="mt-1 flex flex-wrap gap-1.5">
            {read.data.choices.map((unit) => (
              <Button
                key={unit}
                onClick={() => {
                  units.current = { ...units.current, [read.data.asked!]: unit };
                  read.mutate();
                }}
              >
                {unit}
              </Button>
            ))}
          </div>
        </fieldset>
      )}
      {problem &&
        (problem instanceof ProblemError ? (
          <Problems error={problem} />
        ) : (
          <p role="alert" className="text-fail mt-2 text-sm">
            {problem instanceof TypeError ? "The server does not answer; try again." : problem.message}
          </p>
        ))}
    </div>
  );
}

function One({ trace }: { trace: Trace }) {
  const variant = useDesign((s) => s.variant)!;
  const queries = useQueryClient();
  const path = { variant_id: variant.id, trace_id: trace.id };
  const [window, setWindow] = useState<Window>({ begin: 0, end: trace.seconds });
  const [picked, setPicked] = useState<Window | null>(null);
  const asking = useAnswer(["trace", trace.id, trace.assigned], (design, signal) =>
    ask(client.POST("/api/variants/{variant_id}/traces/{trace_id}/judged", { params: { path }, body: design, signal })),
  );
  const remove = useMutation<void, ProblemError>({
    mutationFn: async () => {
      await ask(client.DELETE("/api/variants/{variant_id}/traces/{trace_id}", { params: { path } }));
      await queries.invalidateQueries({ queryKey: ["traces", variant.id] });
    },
  });
  return (
    <Section
      title={trace.name}
      aside={
        <IconButton label={`Take the recording away: ${trace.name}`} onClick={() => remove.mutate()}>
          <Trash2 size={15} aria-hidden />
        </IconButton>
      }
    >
      <Problems error={remove.error} />
      <Answered asking={asking} waiting="Cutting it into modes" nothing="" room="min-h-64">
        {(answer) => (
          <>
            <p className="text-soft text-sm">
              {answer.samples.toLocaleString("en")} samples, {show(answer.seconds, "s")}; mean{" "}
              {show(answer.mean_a, "A")}, {show(answer.charge_ah, "Ah")} in all.
            </p>
            {answer.notes.map((note) => (
              <p key={note} className="text-watch text-sm">
                {note}
              </p>
            ))}
            <TracePicture {...{ trace, answer, window, setWindow, picked, setPicked }} />
            {picked ? (
              <PickedPiece trace={trace} volts={answer.volts} picked={picked} setPicked={setPicked} />
            ) : (
              <p className="text-soft mt-1 text-sm print:hidden">
                Drag over a piece, or press a mode beneath, to measure it or to say what it was.
              </p>
            )}
            <SaidByHand trace={trace} />
            <Modes answer={answer} onLook={setWindow} />
            {!!answer.missing.length && (
              <p className="text-soft mt-2 text-sm">Not in this recording: {answer.missing.join(", ")}.</p>
            )}
            <AsLoad trace={trace} />
          </>
        )}
      </Answered>
    </Section>
  );
}

/** The recording as the load of the runtime. */
function AsLoad({ trace }: { trace: Trace }) {
  const variant = useDesign((s) => s.variant)!;
  const path = { variant_id: variant.id, trace_id: trace.id };
  const asking = useAnswer(["trace-replay", trace.id], (design, signal) =>
    ask(client.POST("/api/variants/{variant_id}/traces/{trace_id}/replay", { params: { path }, body: design, signal })),
  );
  return (
    <div className="border-line mt-3 border-t pt-2.5">
      <h3 className="font-semibold">As the load of the battery</h3>
      <Answered asking={asking} waiting="Emptying the battery by it" nothing="">
        {({ runtime, sentence }) => (
          <p className="text-sm">
            {runtime && (
              <>
                <FigureButton figure={runtime} />{" "}
              </>
            )}
            {sentence}
          </p>
        )}
      </Answered>
    </div>
  );
}

const TONES = { right: "text-pass", high: "text-fail", low: "text-fail", nothing: "text-fail" } as const;

function Modes({ answer, onLook }: { answer: Answer; onLook: (window: Window) => void }) {
  return (
    <ul className="divide-line/60 mt-3 divide-y">
      {answer.modes.map((m) => {
        const first = answer.stretches.find((s) => s.mode === m.mode);
        const { judged } = m;
        return (
          <li key={m.name} className="py-2.5">
            <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
              <h3 className="min-w-40 font-semibold">
                <Tone mode={m.mode} />
                {m.name}
              </h3>
              <span className="text-lg font-semibold tabular-nums">{show(m.mean_a, "A")}</span>
              <span className="text-soft text-sm tabular-nums">
                peak {show(m.peak_a, "A")} · {m.times === 1 ? "once" : `${m.times} times`}, {show(m.seconds, "s")} in
                all
                {m.every_s !== null && ` · every ${show(m.every_s, "s")}`} · {show(m.share * 100, "%")} of the charge
              </span>
              {first && (
                <Button
                  kind="quiet"
                  className="ml-auto"
                  aria-label={`Show ${m.name}`}
                  onClick={() => {
                    const room = (first.end_s - first.begin_s) * 0.3;
                    onLook({ begin: Math.max(first.begin_s - room, 0), end: first.end_s + room });
                  }}
                >
                  Show
                </Button>
              )}
            </div>
            {!!m.phases.length && (
              <ul className="text-soft text-sm tabular-nums">
                {m.phases.map((p) => (
                  <li key={p.name}>
                    <span className="text-ink">{p.name}</span>: {p.sentence}
                  </li>
                ))}
              </ul>
            )}
            {m.by_place && <p className="text-soft text-sm">Known by when it comes, not by what it draws.</p>}
            {judged && (
              <>
                <p className={`text-sm font-medium ${TONES[judged.outcome]}`}>{judged.sentence}</p>
                {!!judged.causes.length && (
                  <ol className="list-decimal pl-5 text-sm">
                    {judged.causes.map((c) => (
                      <li key={c.text}>{c.text}</li>
                    ))}
                  </ol>
                )}
                {judged.remedy && (
                  <p className="mt-1 flex flex-wrap items-center gap-2 text-sm">
                    <Button onClick={() => actions.applyRemedy(judged.remedy!.label, judged.remedy!.patch)}>
                      Put it into the design
                    </Button>
                    <span className="text-soft">
                      {judged.remedy.label}
                      {judged.runtime_h !== null && `; the runtime is then ${show(judged.runtime_h, "h")}`}
                    </span>
                  </p>
                )}
              </>
            )}
          </li>
        );
      })}
    </ul>
  );
}
