// All the field's words in one place, to be looked through.
import { useEffect, useId, useState } from "react";
import { useLocation } from "react-router";
import { useTerms } from "../api/queries";
import { STEPS } from "../design/steps";
import { TopBar } from "../shell/TopBar";
import { INPUT, Labelled } from "../ui/controls";
import { TermDrawing } from "../ui/terms";
import { useTitle } from "../ui/title";

export function Words() {
  const terms = useTerms();
  const [text, setText] = useState("");
  const { hash } = useLocation();
  const id = useId();
  useTitle("Words");
  useEffect(() => {
    if (terms.data && hash) document.getElementById(hash.slice(1))?.scrollIntoView({ block: "center" });
  }, [terms.data, hash]);
  const wanted = text.trim().toLowerCase();
  const found = terms.data?.filter((t) => `${t.name} ${t.text}`.toLowerCase().includes(wanted)) ?? [];
  return (
    <div className="min-h-screen">
      <TopBar />
      <main id="work" tabIndex={-1} className="mx-auto max-w-4xl px-4 py-6">
        <h1 className="text-3xl">Words</h1>
        <p className="text-soft mt-1 max-w-prose">
          What the words on the steps mean. In a field, F1 explains its own; the question mark behind a label does the
          same.
        </p>
        <div className="mt-4 max-w-sm">
          <Labelled id={id} label="Search">
            <input id={id} type="search" className={INPUT} value={text} onChange={(e) => setText(e.target.value)} />
          </Labelled>
        </div>
        {terms.isError && <p role="alert">The words could not be fetched. Reload the page to try again.</p>}
        <p className="sr-only" role="status">
          {terms.data && `${found.length} of ${terms.data.length} words`}
        </p>
        {terms.data && found.length === 0 && <p className="text-soft mt-6">No word has that in it.</p>}
        <dl className="mt-6 grid gap-x-10 gap-y-6 md:grid-cols-2">
          {found.map((t) => (
            <div key={t.key} id={t.key} className="target:bg-well -m-2 scroll-mt-20 rounded-md p-2">
              <dt className="flex items-baseline justify-between gap-3">
                <span className="font-display text-lg">{t.name}</span>
                <span className="text-soft text-xs">{STEPS.find((s) => s.key === t.step)?.name}</span>
              </dt>
              <dd className="mt-0.5 text-[0.9375rem]">
                {t.text}
                {t.drawing && <TermDrawing drawing={t.drawing} />}
              </dd>
            </div>
          ))}
        </dl>
      </main>
    </div>
  );
}
