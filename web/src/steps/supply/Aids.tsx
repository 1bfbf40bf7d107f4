// Small sums around the supply: a measuring divider, a bulk capacitor, a lamp's resistor. Typed figures go to the core,
// which answers with figures that carry their working.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import type { Figure } from "../../design/types";
import { Problems } from "../../ui/problems";
import { Button } from "../../ui/controls";
import { Dialog } from "../../ui/dialog";
import { QuantityField } from "../../design/fields/fields";
import type { Dimension } from "../../ui/reading";
import { FigureButton } from "../../design/fields/figure";
import { Row } from "../../ui/row";

type Input = { key: string; label: string; dimension: Dimension; optional?: boolean; start: number | null };
type Answer = { sentence: string; advice: string[]; figures: Figure[] };
type Aid = { key: string; name: string; why: string; inputs: Input[]; solve: (v: Values) => Promise<Answer> };
type Values = Record<string, number | null>;

/** The figures of an answer, in their order, with its sentence and advice. */
function answerOf(raw: object): Answer {
  const entries = Object.values(raw);
  const figures = entries.filter((v): v is Figure => typeof v === "object" && v !== null && "working" in v);
  const { sentence, advice = [] } = raw as { sentence: string; advice?: string[] };
  return { sentence, advice, figures };
}

const AIDS: Aid[] = [
  {
    key: "divider",
    name: "Measuring divider",
    why: "Two resistors that bring the battery’s voltage down to what a pin can read, without draining it.",
    inputs: [
      { key: "top_v", label: "Highest voltage", dimension: "voltage", start: 4.2 },
      { key: "reference_v", label: "Full scale of the converter", dimension: "voltage", start: 3.3 },
      { key: "bits", label: "Bits of the converter", dimension: "count", start: 12 },
      { key: "drain_max_a", label: "It may drain", dimension: "current", start: 2e-6 },
      { key: "tolerance", label: "Tolerance of the resistors", dimension: "share", start: 0.01 },
      { key: "pin_leak_a", label: "Leakage of the pin", dimension: "current", start: 5e-8 },
      { key: "every_s", label: "Read every", dimension: "time", start: 60 },
      { key: "gate_s", label: "If gated, connected for", dimension: "time", start: 0.01 },
    ],
    solve: async (v) => answerOf(await ask(client.POST("/api/answers/divider", { body: v as Schemas["DividerTask"] }))),
  },
  {
    key: "capacitor",
    name: "Capacitor for a burst",
    why: "What holds a rail up while a radio sends or a speaker beats.",
    inputs: [
      { key: "current_a", label: "Peak above the usual load", dimension: "current", start: 0.3 },
      { key: "seconds", label: "for", dimension: "time", start: 0.002 },
      { key: "allowed_v", label: "The rail may dip by", dimension: "voltage", start: 0.1 },
      { key: "cell_ohm", label: "Cell", dimension: "resistance", start: 0.15 },
      { key: "switch_ohm", label: "Switch and regulator", dimension: "resistance", start: 0.1 },
      { key: "wire_ohm", label: "Wire and contacts", dimension: "resistance", start: 0.05 },
      { key: "limit_a", label: "Limit of the converter", dimension: "current", optional: true, start: null },
      { key: "load_a", label: "Drawn anyway", dimension: "current", start: 0.05 },
      { key: "esr_ohm", label: "ESR of the capacitor", dimension: "resistance", start: 0.05 },
    ],
    solve: async (v) =>
      answerOf(await ask(client.POST("/api/answers/capacitor", { body: v as Schemas["CapacitorTask"] }))),
  },
  {
    key: "led",
    name: "LED and resistor",
    why: "The least current for an LED that is bright enough.",
    inputs: [
      { key: "rail_v", label: "Rail", dimension: "voltage", start: 3.3 },
      { key: "lowest_v", label: "Lowest it falls to", dimension: "voltage", optional: true, start: null },
      { key: "forward_v", label: "Forward voltage", dimension: "voltage", start: 2.1 },
      { key: "mcd_per_ma", label: "Brightness per mA", dimension: "intensity", start: 60 },
      { key: "wanted_mcd", label: "Brightness wanted", dimension: "intensity", start: 20 },
      { key: "current_max_a", label: "Max current of the LED", dimension: "current", start: 0.02 },
      { key: "resistor_ohm", label: "A resistor that is there", dimension: "resistance", optional: true, start: null },
    ],
    solve: async (v) => answerOf(await ask(client.POST("/api/answers/led", { body: v as Schemas["LedTask"] }))),
  },
];

export function Aids() {
  const [open, setOpen] = useState<Aid | null>(null);
  return (
    <>
      {AIDS.map((aid) => (
        <Button key={aid.key} onClick={() => setOpen(aid)}>
          {aid.name}
        </Button>
      ))}
      {open && (
        <Dialog title={open.name} open onOpenChange={(o) => !o && setOpen(null)} wide>
          <AidForm key={open.key} aid={open} />
        </Dialog>
      )}
    </>
  );
}

function AidForm({ aid }: { aid: Aid }) {
  const [values, setValues] = useState<Values>(() => Object.fromEntries(aid.inputs.map((i) => [i.key, i.start])));
  const answer = useQuery<Answer, ProblemError>({
    queryKey: ["aid", aid.key, values],
    queryFn: () => aid.solve(values),
    placeholderData: (before) => before,
    retry: false,
  });
  return (
    <div className="space-y-4">
      <p className="text-soft">{aid.why}</p>
      <div className="grid grid-cols-2 items-end gap-2 sm:grid-cols-3">
        {aid.inputs.map((i) => (
          <QuantityField
            key={i.key}
            label={i.label}
            value={values[i.key]}
            dimension={i.dimension}
            optional={i.optional}
            placeholder={i.optional ? "none" : undefined}
            onCommit={(v) => setValues({ ...values, [i.key]: v })}
          />
        ))}
      </div>
      {answer.error ? (
        <Problems error={answer.error} again={() => void answer.refetch()} />
      ) : (
        answer.data && (
          <div aria-live="polite" className="border-line space-y-3 border-t pt-3">
            <p className="text-[1.0625rem]">{answer.data.sentence}</p>
            <dl className="grid grid-cols-[1fr_auto] gap-x-4 gap-y-1 sm:grid-cols-[1fr_auto_1fr_auto]">
              {answer.data.figures.map((f) => (
                <Row key={f.label} name={f.label}>
                  <FigureButton figure={f} />
                </Row>
              ))}
            </dl>
            {answer.data.advice.map((a) => (
              <p key={a} className="text-soft text-sm">
                {a}
              </p>
            ))}
          </div>
        )
      )}
    </div>
  );
}
