// Bench: from the sheet to the thing. Which pin goes where, how it is put together, what to measure at first power.
import { useState } from "react";
import { useLocation } from "react-router";
import { ask, client } from "../../api/client";
import { Answered, useAnswer } from "../../design/fields/answer";
import { QuantityField } from "../../design/fields/fields";
import { useInstruments } from "../../design/measuring";
import { useDesign } from "../../design/store";
import { StepPage } from "../../shell/StepPage";
import { Button, INPUT } from "../../ui/controls";
import { Views, type View } from "../../ui/views";
import { AssemblyView } from "./AssemblyView";
import { BringUp } from "./BringUp";
import { InstrumentsView } from "./InstrumentsView";
import { Print } from "./Print";
import type { As, Reading } from "./readings";
import { RunDownView } from "./RunDownView";
import { TracesView } from "./TracesView";
import { WiringView } from "./WiringView";

const BENCH_VIEW = "bench-view";

export function Bench() {
  const { state } = useLocation() as { state: { view?: string } | null };
  const [view, setView] = useState(() => state?.view ?? sessionStorage.getItem(BENCH_VIEW) ?? "wiring");
  const [prototype, setPrototype] = useState(1);
  const [instrument, setInstrument] = useState<string | null>(null);
  const [accuracy, setAccuracy] = useState<number | null | undefined>();
  const on = { prototype, setPrototype, instrument, setInstrument, accuracy, setAccuracy };
  const choose = (next: string) => {
    sessionStorage.setItem(BENCH_VIEW, next);
    setView(next);
  };
  const views: View[] = [
    ["wiring", "Wiring", <WiringView key="wiring" />],
    ["assembly", "Assembly", <OnPrototype key="assembly" {...on} view="assembly" />],
    ["bringup", "Bring-up", <OnPrototype key="bringup" {...on} view="bringup" />],
    ["traces", "Traces", <TracesView key="traces" />],
    ["rundown", "Run-down", <RunDownView key="rundown" />],
    ["instruments", "Instruments", <InstrumentsView key="instruments" onRecorded={() => choose("traces")} />],
  ];
  return (
    <StepPage step="bench">
      <div className="mx-auto max-w-4xl">
        <Views label="Views" views={views} view={view} choose={choose} />
      </div>
    </StepPage>
  );
}

type On = {
  view: "assembly" | "bringup";
  prototype: number;
  setPrototype: (n: number) => void;
  instrument: string | null;
  setInstrument: (name: string) => void;
  /** how far the instrument may be off; undefined: as the last one of its name */
  accuracy: number | null | undefined;
  setAccuracy: (share: number | null) => void;
};

/** What is done on one of several prototypes. */
function OnPrototype({ view, prototype, setPrototype, instrument, setInstrument, accuracy, setAccuracy }: On) {
  const variant = useDesign((s) => s.variant)!;
  const reach = useInstruments();
  const asking = useAnswer(["bringup", variant.id], (design, signal) =>
    ask(
      client.POST("/api/variants/{variant_id}/bringup", {
        params: { path: { variant_id: variant.id } },
        body: design,
        signal,
      }),
    ),
  );
  return (
    <Answered asking={asking} waiting="Writing the sheet" nothing="">
      {({ sheet, assembly, readings, together }) => {
        const most = Math.max(prototype, ...readings.map((r) => r.prototype));
        const own = new Map<string, Reading>(readings.filter((r) => r.prototype === prototype).map((r) => [r.step, r]));
        const newest = readings.toSorted((a, b) => b.taken.localeCompare(a.taken));
        const named = instrument ?? newest.find((r) => r.instrument)?.instrument ?? "";
        const before = newest.find((r) => r.instrument === named && r.value !== null)?.accuracy ?? null;
        const as: As = { prototype, instrument: named, accuracy: accuracy === undefined ? before : accuracy };
        return (
          <div className="space-y-4">
            <div className="flex flex-wrap items-center justify-between gap-2">
              <div role="group" aria-label="Prototype" className="flex flex-wrap gap-1.5 print:hidden">
                {Array.from({ length: most }, (_, i) => i + 1).map((n) => (
                  <Button
                    key={n}
                    kind={n === prototype ? "strong" : "plain"}
                    aria-pressed={n === prototype}
                    onClick={() => setPrototype(n)}
                  >
                    Prototype {n}
                  </Button>
                ))}
                <Button kind="quiet" onClick={() => setPrototype(most + 1)}>
                  Another one
                </Button>
              </div>
              {view === "bringup" && (
                <div className="text-soft flex flex-wrap items-center gap-2 text-sm print:hidden">
                  <label className="flex items-center gap-2">
                    Measured with
                    <input
                      className={`${INPUT} w-44`}
                      value={as.instrument}
                      maxLength={80}
                      placeholder="name of the meter"
                      autoComplete="off"
                      list="instruments"
                      onChange={(e) => setInstrument(e.target.value)}
                    />
                    <datalist id="instruments">
                      {reach.data?.instruments.map((i) => (
                        <option key={i.id} value={i.name} />
                      ))}
                    </datalist>
                  </label>
                  <span className="flex items-center gap-2">
                    off by
                    <span className="w-20">
                      <QuantityField
                        bare
                        label="What the meter is off by at most"
                        dimension="share"
                        value={as.accuracy}
                        optional
                        placeholder="3 %"
                        onCommit={setAccuracy}
                      />
                    </span>
                  </span>
                </div>
              )}
              <Print />
            </div>
            {view === "bringup" ? (
              <BringUp
                sheet={sheet}
                own={own}
                others={readings.filter((r) => r.prototype !== prototype)}
                as={as}
                together={together.find((t) => t.prototype === prototype)?.taken}
              />
            ) : (
              <AssemblyView sheet={assembly} own={own} as={as} />
            )}
          </div>
        );
      }}
    </Answered>
  );
}
