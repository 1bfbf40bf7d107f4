// The band along the lower edge of every screen: seven answers, each leading to its cause.
import { useEffect, useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { actions, useDesign, useShown } from "../design/store";
import type { Verdict } from "../design/types";
import { Button } from "../ui/controls";
import { Value } from "../design/fields/figure";
import { range, show } from "../ui/format";
import { STATUS_TEXT, StatusMark } from "../design/fields/status";

export function VerdictBand() {
  const shown = useShown();
  const baseline = useDesign((s) => s.baseline);
  const preview = useDesign((s) => s.preview);
  const { applyRemedy, endPreview } = actions;
  const now = useDesign((s) => s.evaluation);
  // while previewing, what is compared with is the design as it stands
  const before = preview ? now : baseline;
  return (
    <footer
      aria-label="Verdict"
      className={`bg-sheet sticky bottom-0 z-20 border-t-2 print:static ${preview ? "border-ember" : "border-line"}`}
    >
      {preview && (
        <div className="border-line bg-ember/10 flex flex-wrap items-center gap-3 border-b px-4 py-1.5" role="status">
          <span>
            <strong className="font-semibold">Preview:</strong> {preview.label}
          </span>
          <span className="ml-auto flex gap-2">
            <Button kind="strong" onClick={() => applyRemedy(preview.label, preview.patch)} data-testid="apply-preview">
              Apply
            </Button>
            <Button onClick={endPreview}>Leave as it is</Button>
          </span>
        </div>
      )}
      <Announcement />
      <ul className="grid max-h-[40vh] grid-cols-[repeat(auto-fit,minmax(5.6rem,1fr))] overflow-y-auto lg:grid-cols-[1.5fr_1.15fr_1fr_1fr_1fr_1fr_1fr] print:[zoom:0.85] print:overflow-visible">
        {shown
          ? shown.verdicts.map((v) => (
              <VerdictPlace
                key={v.key}
                verdict={v}
                before={before?.verdicts.find((b) => b.key === v.key)}
                word={preview ? "now" : "was"}
              />
            ))
          : Array.from({ length: 7 }, (_, i) => (
              <li key={i} className="border-line/60 bg-well/40 h-[84px] animate-pulse border-l" aria-hidden />
            ))}
      </ul>
    </footer>
  );
}

/** Says aloud which verdicts an edit has changed; the first figures of a page are not news. */
function Announcement() {
  const evaluation = useShown();
  const [said, setSaid] = useState("");
  const before = useRef<ReadonlyMap<string, string> | null>(null);
  useEffect(() => {
    if (!evaluation) return;
    const words = new Map(evaluation.verdicts.map((v) => [v.key as string, v.word]));
    const changed = evaluation.verdicts.filter((v) => before.current && before.current.get(v.key) !== v.word);
    before.current = words;
    if (changed.length)
      setSaid(changed.map((v) => `${v.label}: ${show(v.figure.value, v.figure.unit)}, ${v.word}`).join(". "));
  }, [evaluation]);
  return (
    <p role="status" className="sr-only" data-testid="announcement">
      {said}
    </p>
  );
}

/** A verdict's label, figure and word. */
export function VerdictLines({ verdict }: { verdict: Verdict }) {
  return (
    <>
      <span className="text-soft text-[0.8125rem]">{verdict.label}</span>
      <span
        className="font-display text-[1.375rem] leading-tight whitespace-nowrap"
        data-testid={`figure-${verdict.key}`}
      >
        <Value value={verdict.figure.value} unit={verdict.figure.unit} />
      </span>
      <span className={`flex items-center gap-1.5 text-[0.8125rem] font-semibold ${STATUS_TEXT[verdict.status]}`}>
        <StatusMark status={verdict.status} size={13} />
        <span className="min-w-0 leading-tight">{verdict.word}</span>
      </span>
    </>
  );
}

function VerdictPlace({
  verdict,
  before,
  word,
}: {
  verdict: Verdict;
  before: Verdict | undefined;
  word: "was" | "now";
}) {
  const navigate = useNavigate();
  const { variantId } = useParams();
  const { figure } = verdict;
  const guesses = useShown()?.guesses.length ?? 0;
  const guessed = verdict.key === "runtime" && guesses > 0 ? (guesses === 1 ? "one guess" : `${guesses} guesses`) : "";
  const was = before && show(before.figure.value, before.figure.unit);
  const changed = was !== undefined && was !== show(figure.value, figure.unit);
  const reach = verdict.key === "runtime" ? range(figure.low, figure.high, figure.unit) : "";
  return (
    <li className="border-line/60 min-w-0 border-t border-l lg:border-t-0 lg:first:border-l-0">
      <button
        type="button"
        onClick={() => navigate(`/gadgets/${variantId}/${verdict.step}`, { state: { view: verdict.key } })}
        title={verdict.sentence}
        data-testid={`verdict-${verdict.key}`}
        data-status={verdict.status}
        className="hover:bg-well/60 flex h-full w-full flex-col px-2 py-1 text-left sm:px-3 lg:min-h-[84px] lg:py-1.5 print:px-1.5"
      >
        <VerdictLines verdict={verdict} />
        <span className="text-soft hidden truncate text-xs sm:block">
          {changed ? (
            <>
              {word} {was}
            </>
          ) : (
            [reach || verdict.about, guessed].filter(Boolean).join(" · ")
          )}
        </span>
      </button>
    </li>
  );
}
