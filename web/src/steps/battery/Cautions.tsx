// What to mind with these cells. One can take note of each with a reason; it stays in the record and in every report.
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useDesign } from "../../design/store";
import { Button, INPUT } from "../../ui/controls";

type Caution = Schemas["Caution"];

export function Cautions({ cautions }: { cautions: Caution[] }) {
  const open = cautions.filter((c) => !c.reason);
  const known = cautions.filter((c) => c.reason);
  return (
    <section aria-label="Cautions" className="rounded-card border-fail/40 border p-3">
      <h2 className="text-lg">Cautions</h2>
      <ul className="mt-1 space-y-2 text-sm">
        {open.map((c) => (
          <Open key={c.key} caution={c} />
        ))}
      </ul>
      {known.length > 0 && (
        <details className="mt-2 text-sm">
          <summary className="text-soft hover:text-ink min-h-8 cursor-pointer py-1">
            {known.length} taken note of
          </summary>
          <ul className="mt-1 space-y-2">
            {known.map((c) => (
              <Known key={c.key} caution={c} />
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}

function Open({ caution }: { caution: Caution }) {
  const edit = useDesign((s) => s.edit);
  const [reason, setReason] = useState<string | null>(null);
  const take = () => {
    const said = reason?.trim();
    if (said) edit("Take note of a caution", (d) => d.dismissed.push({ caution: caution.key, reason: said }));
  };
  return (
    <li>
      {caution.text}{" "}
      {reason === null ? (
        <button
          type="button"
          className="text-soft hover:text-ink min-h-6 underline decoration-dotted underline-offset-2"
          onClick={() => setReason("")}
        >
          Take note …
        </button>
      ) : (
        <form
          className="mt-1 flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            take();
          }}
        >
          <input
            autoFocus
            aria-label="Why it is met here"
            placeholder="why it is met here"
            className={`${INPUT} min-w-0 flex-1`}
            value={reason}
            onChange={(e) => setReason(e.target.value)}
          />
          <Button disabled={!reason.trim()} onClick={take}>
            Keep
          </Button>
        </form>
      )}
    </li>
  );
}

function Known({ caution }: { caution: Caution }) {
  const edit = useDesign((s) => s.edit);
  return (
    <li>
      <span className="text-soft">{caution.text}</span> Because: {caution.reason}{" "}
      <button
        type="button"
        className="text-soft hover:text-ink min-h-6 underline decoration-dotted underline-offset-2"
        onClick={() =>
          edit("Show a caution again", (d) => (d.dismissed = d.dismissed.filter((x) => x.caution !== caution.key)))
        }
      >
        Show it again
      </button>
    </li>
  );
}
