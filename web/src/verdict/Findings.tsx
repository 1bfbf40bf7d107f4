// Findings with the way out: a sentence with its numbers, a preview of the remedy, apply; undo takes it back.
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { actions, useDesign } from "../design/store";
import type { Finding, Remedy, StepKey } from "../design/types";
import { Button } from "../ui/controls";
import { SeverityMark } from "../ui/status";

/** Preview and apply for a remedy or a saving. */
export function RemedyButtons({ remedy }: { remedy: Remedy }) {
  const { applyRemedy, showPreview, endPreview } = actions;
  const previewed = useDesign((s) => s.preview?.patch === remedy.patch);
  const [busy, setBusy] = useState(false);
  const look = async () => {
    if (previewed) return endPreview();
    setBusy(true);
    await showPreview(remedy.label, remedy.patch as never).finally(() => setBusy(false));
  };
  return (
    <div className="mt-2 flex flex-wrap gap-2">
      <Button onClick={() => void look()} busy={busy} aria-pressed={previewed}>
        {previewed ? "End preview" : "Preview"}
      </Button>
      <Button kind="strong" onClick={() => applyRemedy(remedy.label, remedy.patch as never)}>
        Apply
      </Button>
    </div>
  );
}

function FindingCard({ finding, here }: { finding: Finding; here: StepKey }) {
  const navigate = useNavigate();
  const { variantId } = useParams();
  return (
    <article
      className="border-line/70 border-b py-3 last:border-b-0"
      data-testid={`finding-${finding.code}`}
      aria-label={finding.title}
    >
      <div className="flex items-baseline justify-between gap-2">
        <SeverityMark severity={finding.severity} />
        {finding.step !== here && (
          <button
            type="button"
            className="text-soft hover:text-ink text-xs underline underline-offset-2"
            onClick={() => navigate(`/gadgets/${variantId}/${finding.step}`)}
          >
            in {finding.step[0]?.toUpperCase() + finding.step.slice(1)}
          </button>
        )}
      </div>
      <h3 className="mt-0.5 text-[1.0625rem] leading-snug">{finding.title}</h3>
      <p className="text-soft mt-1 text-[0.9375rem]">{finding.sentence}</p>
      {finding.remedy && (
        <>
          <p className="mt-1.5 text-[0.9375rem] font-medium">{finding.remedy.label}</p>
          <RemedyButtons remedy={finding.remedy} />
        </>
      )}
    </article>
  );
}

export function Findings({ step }: { step: StepKey }) {
  const findings = useDesign((s) => s.evaluation?.findings);
  if (!findings) return null;
  const sorted = [...findings.filter((f) => f.step === step), ...findings.filter((f) => f.step !== step)];
  return (
    <section aria-label="Findings">
      <h2 className="text-lg">Findings</h2>
      {sorted.length === 0 ? (
        <p className="text-soft mt-1">None of the traps that are checked is in this design.</p>
      ) : (
        sorted.map((f) => <FindingCard key={f.code + f.where + f.title} finding={f} here={step} />)
      )}
    </section>
  );
}
