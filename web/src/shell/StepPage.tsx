// A step's page: the work, and beside it the details of what is selected and the findings.
import { useLayoutEffect, useRef, type ReactNode } from "react";
import type { StepKey } from "../design/types";
import { Findings } from "../verdict/Findings";
import { Guesses } from "../verdict/Guesses";
import { Hints } from "../verdict/Hints";
import { STEPS } from "../design/steps";

const left = new Map<string, number>(); // how far down each step was when it was left

export function StepPage({ step, children, details }: { step: StepKey; children: ReactNode; details?: ReactNode }) {
  const work = useRef<HTMLElement>(null);
  useLayoutEffect(() => {
    const page = work.current;
    if (page) page.scrollTop = left.get(step) ?? 0;
    return () => void left.set(step, page?.scrollTop ?? 0);
  }, [step]);
  return (
    <div className="grid min-h-0 flex-1 lg:grid-cols-[minmax(0,1fr)_20.5rem] print:order-1 print:block">
      <main
        ref={work}
        id="work"
        tabIndex={-1}
        className="min-h-0 overflow-y-auto p-4 outline-none print:overflow-visible"
        aria-label={STEPS.find((s) => s.key === step)?.name}
      >
        {children}
      </main>
      <aside
        className="border-line min-h-0 space-y-5 overflow-y-auto px-4 py-4 lg:border-l print:overflow-visible print:border-0"
        aria-label="Details and findings"
      >
        <div className="space-y-5 print:hidden">
          {details}
          {!details && <Hints />}
        </div>
        <Findings step={step} />
        <Guesses />
      </aside>
    </div>
  );
}
