// Which supply at all: the same gadget on each of six supplies, side by side, and each to be kept as a variant.
import { Fragment, useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { Answered, useAnswer } from "../../design/fields/answer";
import { FigureButton } from "../../design/fields/figure";
import { StatusMark, STATUS_TEXT } from "../../design/fields/status";
import { useOpenDesign } from "../../design/store";
import { Button } from "../../ui/controls";
import { Dialog } from "../../ui/dialog";
import { Explain } from "../../ui/terms";
import { rangeOf, Ranges } from "../../ui/ranges";
import { KeepSupply } from "./KeepSupply";

type School = Schemas["SchoolAnswer"];

export function Schools() {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>Which supply at all?</Button>
      <Dialog title="Which supply at all" open={open} onOpenChange={setOpen} wide="table">
        {open && <SideBySide />}
      </Dialog>
    </>
  );
}

function SideBySide() {
  const goal = useOpenDesign().brief.goal_h ?? null;
  const asking = useAnswer(["schools"], (design, signal) =>
    ask(client.POST("/api/answers/schools", { body: design, signal })),
  );
  return (
    <Answered asking={asking} waiting="Completing the gadget on each of six supplies" nothing="">
      {(schools) => (
        <>
          <p className="text-soft mb-2">
            Parts, modes and day as they are; cell, charger, regulators and their places are the tool’s, the lightest
            pack with which it lasts long enough.
          </p>
          <Ranges
            label="Runtime on each supply"
            unit="h"
            goal={goal}
            ranges={schools.flatMap((s) => rangeOf(s.name, s.runtime, s.now, !s.works))}
          />
          <Table schools={schools} />
        </>
      )}
    </Answered>
  );
}

const WORDS = { pass: "works", watch: "works, but", fail: "not as it stands", unknown: "not known" } as const;

function Table({ schools }: { schools: readonly School[] }) {
  const [open, setOpen] = useState<string | null>(null);
  return (
    <div className="mt-3 overflow-x-auto" role="region" aria-label="Supplies side by side" tabIndex={0}>
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left align-bottom">
            {["Supply", "when coldest", "peak", "mass", "cost", "cells a year", "in its case"].map((h) => (
              <th key={h} scope="col" className="border-line border-b px-2 py-1 font-medium first:pl-0">
                <span className="inline-flex items-center gap-0.5">
                  {h} <Explain label={h} field={`schools ${h}`} />
                </span>
              </th>
            ))}
            <td className="border-line border-b" />
          </tr>
        </thead>
        <tbody>
          {schools.map((s) => {
            const shown = open === s.key;
            return (
              <Fragment key={s.key}>
                <tr className={`border-line/60 align-top ${shown ? "" : "border-b"}`} data-testid={`school-${s.key}`}>
                  <th scope="row" className="min-w-52 py-2 pr-2 text-left font-normal">
                    <button
                      type="button"
                      className="text-left font-medium underline-offset-2 hover:underline"
                      aria-expanded={shown}
                      onClick={() => setOpen(shown ? null : s.key)}
                    >
                      {s.name}
                      {s.now && <span className="text-soft font-normal"> (now)</span>}
                    </button>
                    <span className="text-soft block">{s.pack}</span>
                    <span className={`flex items-center gap-1 text-xs font-semibold ${STATUS_TEXT[s.status]}`}>
                      <StatusMark status={s.status} size={12} /> {WORDS[s.status]}
                    </span>
                    <span className="text-soft block text-xs">{s.refill}</span>
                    {s.design && s.status === "fail" && !shown && (
                      <span className="text-soft line-clamp-2 text-xs">{s.blame}</span>
                    )}
                  </th>
                  {s.design ? (
                    <>
                      {[s.coldest, s.peak, s.mass, s.cost, s.yearly].map((f, i) => (
                        <td key={i} className="px-2 py-2 whitespace-nowrap">
                          {f ? <FigureButton figure={f} /> : <span className="text-soft">–</span>}
                        </td>
                      ))}
                      <td className="px-2 py-2">
                        {s.closes && (
                          <span className={`flex items-center gap-1 whitespace-nowrap ${STATUS_TEXT[s.closes.status]}`}>
                            <StatusMark status={s.closes.status} size={12} /> {s.closes.word}
                          </span>
                        )}
                      </td>
                    </>
                  ) : (
                    <td colSpan={6} className="text-soft px-2 py-2">
                      {s.blame}
                    </td>
                  )}
                  <td className="py-2 text-right">{!s.now && s.design && <KeepSupply school={s} />}</td>
                </tr>
                {shown && (
                  <tr className="border-line/60 border-b">
                    <td colSpan={8} className="text-soft space-y-1 pr-2 pb-3">
                      <p>{s.about}</p>
                      {s.blame && s.design && <p className="text-ink">{s.blame}</p>}
                      {!!s.parts.length && <p>On the way: {s.parts.join(", ")}.</p>}
                      <p>What you have to do: {s.skills}</p>
                      {s.risks && <p>{s.risks}</p>}
                    </td>
                  </tr>
                )}
              </Fragment>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
