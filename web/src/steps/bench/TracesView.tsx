// Traces: a recorded current is brought, cut into the design's modes, drawn, and held against the design.
import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { Answered, useAnswer } from "../../design/fields/answer";
import { FigureButton } from "../../design/fields/figure";
import { actions, useDesign } from "../../design/store";
import { Button, Section } from "../../ui/controls";
import { show } from "../../ui/format";
import { Problems } from "../../ui/problems";
import { BringRecording, ChooseRecording, TakeAway, useRecordings } from "./recordings";
import { TONES } from "./readings";
import { PickedPiece, SaidByHand } from "./PickedPiece";
import { Tone, TracePicture, type Window } from "./TracePicture";

type Trace = Schemas["TraceOut"];
type Answer = Schemas["TraceAnswer"];

export function TracesView() {
  const traces = useRecordings("current");
  const [chosen, setChosen] = useState<number | null>(null);
  const trace = traces.data?.find((t) => t.id === chosen) ?? traces.data?.[0];
  return (
    <div className="space-y-4">
      <BringRecording
        kind="current"
        label="A recorded current (CSV of time and current, also as gzip)"
        onRead={setChosen}
      >
        From a shunt, a meter or a supply that logs. It is cut into this gadget&apos;s modes, and each is held against
        its estimate.
      </BringRecording>
      <Problems error={traces.error} />
      <ChooseRecording of={traces.data} chosen={trace} onChoose={setChosen} />
      {trace && <One key={trace.id} trace={trace} />}
    </div>
  );
}

function One({ trace }: { trace: Trace }) {
  const variant = useDesign((s) => s.variant)!;
  const path = { variant_id: variant.id, trace_id: trace.id };
  const [window, setWindow] = useState<Window>({ begin: 0, end: trace.seconds });
  const [picked, setPicked] = useState<Window | null>(null);
  const asking = useAnswer(["trace", trace.id, trace.assigned], (design, signal) =>
    ask(client.POST("/api/variants/{variant_id}/traces/{trace_id}/judged", { params: { path }, body: design, signal })),
  );
  return (
    <Section title={trace.name} aside={<TakeAway trace={trace} />}>
      <Answered asking={asking} waiting="Cutting it into modes" nothing="" room="min-h-64">
        {(answer) => (
          <>
            <p className="text-soft text-sm">
              {trace.samples.toLocaleString("en")} samples, {show(answer.seconds, "s")}; mean {show(answer.mean_a, "A")}
              , {show(answer.charge_ah, "Ah")} in all.
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
            {answer.all_taken && <AllOfIt taken={answer.all_taken} />}
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

/** All that was measured into the design at once. */
function AllOfIt({ taken: { remedy, taken, runtime_h } }: { taken: Schemas["TakenReadings"] }) {
  return (
    <p className="mt-2 flex flex-wrap items-center gap-2 text-sm print:hidden">
      <Button onClick={() => actions.applyRemedy(remedy.label, remedy.patch)}>
        Put all {taken.length} modes into the design
      </Button>
      <span className="text-soft">the runtime is then {show(runtime_h, "h")}</span>
    </p>
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
