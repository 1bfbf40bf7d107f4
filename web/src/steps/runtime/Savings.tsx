// What would help most: every measure alone and stacked, other habits apart; picked ones together, applied or kept as a
// variant.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import { actions, useDesign, useOpenDesign, useShown } from "../../design/store";
import { patched } from "../../design/history";
import type { Saving } from "../../design/types";
import { Problems } from "../../ui/problems";
import { freeName } from "../../design/variants";
import { Answered, useAnswer, type Asking } from "../../design/fields/answer";
import { Button, Section } from "../../ui/controls";
import { FigureButton } from "../../design/fields/figure";
import { count } from "../../ui/format";
import { RemedyButtons } from "../../verdict/Findings";

export function Savings() {
  const asking = useAnswer(["savings"], (design, signal) =>
    ask(client.POST("/api/answers/savings", { body: design, signal })),
  );
  const stack = useStack(asking.fresh ? (asking.data ?? []).map((s) => s.key) : []);
  const [picked, setPicked] = useState<string[]>([]);
  const shown = useShown();
  return (
    <Section title="What would help most">
      <Answered asking={asking} waiting="Trying every measure on the gadget" nothing="">
        {(savings) =>
          savings.length ? (
            <>
              <Picked keys={picked.filter((k) => savings.some((s) => s.key === k))} clear={() => setPicked([])} />
              {(
                [
                  ["To build or to program", savings.filter((s) => s.kind !== "habit")],
                  ["To use otherwise", savings.filter((s) => s.kind === "habit")],
                ] as const
              ).map(
                ([title, rows]) =>
                  rows.length > 0 && (
                    <Measures
                      key={title}
                      title={title}
                      savings={rows}
                      stack={stack}
                      picked={picked}
                      pick={(key, on) => setPicked(on ? [...picked, key] : picked.filter((k) => k !== key))}
                    />
                  ),
              )}
              {stack.error && (
                <>
                  <p className="mb-1">What each brings on top of those above it is not known.</p>
                  <Problems error={stack.error} again={stack.again} />
                </>
              )}
            </>
          ) : (
            <p className="text-soft">No measure makes it last longer. {shown?.runtime.sentence}</p>
          )
        }
      </Answered>
    </Section>
  );
}

type Stacked = Asking<Schemas["Stack"]>;

/** Measures one on top of the other, in that order. */
function useStack(keys: string[]): Stacked {
  return useAnswer(
    ["stack", ...keys],
    (design, signal) =>
      ask(client.POST("/api/answers/savings/stack", { params: { query: { key: keys } }, body: design, signal })),
    keys.length > 0,
  );
}

type MeasureProps = {
  title: string;
  savings: Saving[];
  stack: Stacked;
  picked: string[];
  pick: (key: string, on: boolean) => void;
};

function Measures({ title, savings, stack, picked, pick }: MeasureProps) {
  const [open, setOpen] = useState<string>();
  return (
    <table className="mb-3 w-full text-[0.9375rem]">
      <thead className="text-soft text-sm">
        <tr>
          <th className="w-8">
            <span className="sr-only">Pick</span>
          </th>
          <th className="pb-1 text-left font-normal">{title}</th>
          <th className="pb-1 text-right font-normal">Gained alone</th>
          <th className="pb-1 pl-4 text-right font-normal">With all above</th>
        </tr>
      </thead>
      <tbody>
        {savings.map((s) => (
          <tr key={s.key} className="border-line/60 border-t align-top" data-testid={`saving-${s.code}`}>
            <td className="py-1.5">
              <input
                type="checkbox"
                className="mt-1 size-4 accent-(--ink)"
                aria-label={`Pick: ${s.title}`}
                checked={picked.includes(s.key)}
                onChange={(e) => pick(s.key, e.target.checked)}
              />
            </td>
            <td className="py-1.5 pr-3">
              <button
                type="button"
                className="hover:text-ember-ink text-left"
                aria-expanded={open === s.key}
                onClick={() => setOpen(open === s.key ? undefined : s.key)}
              >
                {s.title}
              </button>
              {open === s.key ? (
                <div className="text-soft mt-1 text-sm">
                  <p>{s.sentence}</p>
                  <p className="mt-0.5">{s.side_effect}</p>
                  <p className="mt-0.5">{s.remedy.outcome}</p>
                  <RemedyButtons remedy={s.remedy} />
                </div>
              ) : (
                <p className="text-soft text-sm">{s.side_effect}</p>
              )}
            </td>
            <td className="font-display text-ember-ink py-1.5 text-right text-lg whitespace-nowrap">
              + <FigureButton figure={s.gained} />
            </td>
            <td className="py-1.5 pl-4 text-right whitespace-nowrap">
              <OnTop stack={stack} measure={s.key} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** The runtime with a measure on top of all above it. */
function OnTop({ stack, measure }: { stack: Stacked; measure: string }) {
  const step = stack.fresh ? stack.data?.steps.find((s) => s.key === measure) : undefined;
  if (step?.runtime) return <FigureButton figure={step.runtime} />;
  if (step) return <span className="text-soft text-sm">excluded</span>;
  return stack.error ? null : (
    <span className="text-soft" aria-busy aria-label="being tried">
      …
    </span>
  );
}

/** The picked measures judged together. */
function Picked({ keys, clear }: { keys: string[]; clear: () => void }) {
  if (!keys.length)
    return (
      <p className="text-soft mb-2 text-sm">
        Pick measures to see them together. Gains are judged together, not added up.
      </p>
    );
  return <Together keys={keys} clear={clear} />;
}

function Together({ keys, clear }: { keys: string[]; clear: () => void }) {
  const design = useOpenDesign();
  const variant = useDesign((s) => s.variant)!;
  const navigate = useNavigate();
  const queries = useQueryClient();
  const asking = useStack(keys);
  const keep = useMutation<void, ProblemError, { label: string; patch: Schemas["Remedy"]["patch"] }>({
    mutationFn: async ({ label, patch }) => {
      await actions.saveNow();
      const body = {
        name: freeName(`With ${label.charAt(0).toLowerCase()}${label.slice(1)}`, variant.project.variants),
        design: patched(design, patch),
      };
      const made = await ask(
        client.POST("/api/projects/{project_id}/variants", {
          params: { path: { project_id: variant.project.id } },
          body,
        }),
      );
      await queries.invalidateQueries({ queryKey: ["projects"] });
      void navigate(`/gadgets/${made.id}/runtime`);
    },
  });
  return (
    <div className="bg-well/60 mb-3 rounded-md p-3" aria-live="polite" data-testid="picked-savings">
      <Answered asking={asking} waiting={`Trying ${count(keys.length, "measure")} together`} nothing="">
        {(stack) => (
          <div className="flex flex-wrap items-center justify-between gap-x-4 gap-y-2">
            <p className="min-w-0 flex-1">
              <span className="font-display mr-2 text-lg">
                <FigureButton figure={stack.runtime} />
              </span>
              {stack.sentence}
            </p>
            <div className="flex flex-wrap gap-2">
              <Button kind="quiet" onClick={clear}>
                None
              </Button>
              <Button
                busy={keep.isPending}
                onClick={() => keep.mutate({ label: stack.remedy.label, patch: stack.remedy.patch })}
              >
                Keep as a variant
              </Button>
              <Button
                kind="strong"
                onClick={() => {
                  actions.applyRemedy(stack.remedy.label, stack.remedy.patch);
                  clear();
                }}
              >
                Apply
              </Button>
            </div>
          </div>
        )}
      </Answered>
      <Problems error={keep.error} />
    </div>
  );
}
