// Findings with the way out: a sentence with its numbers, a preview of the remedy, apply; undo takes it back.
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { actions, useDesign } from "../design/store";
import type { Finding, Remedy, StepKey } from "../design/types";
import { STEPS } from "../design/steps";
import { Button } from "../ui/controls";
import { SeverityMark } from "../design/fields/status";

/** Preview and apply for a remedy or a saving. */
export function RemedyButtons({ remedy }: { remedy: Remedy }) {
  const { applyRemedy, showPreview, endPreview } = actions;
  const previewed = useDesign((s) => s.preview?.patch === remedy.patch);
  const [busy, setBusy] = useState(false);
  const look = async () => {
    if (previewed) return endPreview();
    setBusy(true);
    await showPreview(remedy.label, remedy.patch).finally(() => setBusy(false));
  };
  return (
    <div className="mt-2 flex flex-wrap gap-2">
      <Button onClick={() => void look()} busy={busy} aria-pressed={previewed}>
        {previewed ? "End preview" : "Preview"}
      </Button>
      <Button kind="strong" onClick={() => applyRemedy(remedy.label, remedy.patch)}>
        Apply
      </Button>
    </div>
  );
}

/** What leads out of a finding, once it has been held against the design. */
function WayOut({ finding }: { finding: Finding }) {
  const ways = useDesign((s) => s.ways);
  const remedy = ways?.get(finding.key);
  if (!finding.has_ways) return null;
  if (ways === null) return <p className="text-soft mt-1.5 text-sm">Trying a way out on the gadget…</p>;
  if (!remedy)
    return (
      <p className="text-soft mt-1.5 text-sm">No single change that was tried settles it without harm elsewhere.</p>
    );
  return (
    <>
      <p className="mt-1.5 text-[0.9375rem] font-medium">{remedy.label}</p>
      <p className="text-soft text-[0.9375rem]">{remedy.outcome}</p>
      <RemedyButtons remedy={remedy} />
    </>
  );
}

function FindingCard({ finding }: { finding: Finding }) {
  return (
    <article
      className="border-line/70 border-b py-3 last:border-b-0"
      data-testid={`finding-${finding.code}`}
      aria-label={finding.title}
    >
      <SeverityMark severity={finding.severity} />
      <h3 className="mt-0.5 text-[1.0625rem] leading-snug">{finding.title}</h3>
      <p className="text-soft mt-1 text-[0.9375rem]">{finding.sentence}</p>
      <WayOut finding={finding} />
    </article>
  );
}

/** A finding of another step in one line, which leads there. */
function FindingLine({ finding }: { finding: Finding }) {
  const navigate = useNavigate();
  const { variantId } = useParams();
  const step = STEPS.find((s) => s.key === finding.step)?.name ?? finding.step;
  return (
    <li data-testid={`finding-${finding.code}`}>
      <button
        type="button"
        title={finding.sentence}
        onClick={() => navigate(`/gadgets/${variantId}/${finding.step}`)}
        className="hover:bg-well/60 flex min-h-6 w-full items-baseline gap-2 rounded-sm py-0.5 text-left text-[0.9375rem]"
      >
        <span className="shrink-0">
          <SeverityMark severity={finding.severity} />
        </span>
        <span className="min-w-0 flex-1 truncate">{finding.title}</span>
        <span className="text-soft shrink-0 text-xs">{step}</span>
      </button>
    </li>
  );
}

export function Findings({ step }: { step: StepKey }) {
  const findings = useDesign((s) => s.evaluation?.findings);
  if (!findings) return null;
  const here = findings.filter((f) => f.step === step);
  const others = findings.filter((f) => f.step !== step);
  return (
    <section aria-label="Findings">
      <h2 className="text-lg">Findings</h2>
      {findings.length === 0 && <p className="text-soft mt-1">None of the traps that are checked is in this design.</p>}
      {findings.length > 0 && here.length === 0 && <p className="text-soft mt-1">Nothing to mend in this step.</p>}
      {here.map((f) => (
        <FindingCard key={f.key} finding={f} />
      ))}
      {others.length > 0 && (
        <div className="print:hidden">
          <h3 className="text-soft mt-3 text-sm">In other steps</h3>
          <ul className="mt-1">
            {others.map((f) => (
              <FindingLine key={f.key} finding={f} />
            ))}
          </ul>
        </div>
      )}
    </section>
  );
}
