// Every revision with its reason and its figures: pin, compare with, go back to.
import { useQueryClient } from "@tanstack/react-query";
import { Pin, PinOff } from "lucide-react";
import { useState, type FormEvent } from "react";
import { ask, client } from "../../api/client";
import { useRevisions } from "../../api/queries";
import { actions, useDesign } from "../../design/store";
import type { Revision } from "../../design/types";
import { Button, IconButton, INPUT, Section } from "../../ui/controls";
import { count, date, show } from "../../ui/format";

export function Revisions() {
  const variant = useDesign((s) => s.variant)!;
  const head = useDesign((s) => s.revision)!;
  const { saveNow, setVariant, edit } = actions;
  const list = useRevisions(variant.id, head.id);
  const queries = useQueryClient();
  const [reason, setReason] = useState("");
  const [failed, setFailed] = useState(false);

  const act = (work: () => Promise<unknown>) => {
    setFailed(false);
    work()
      .then(() => queries.invalidateQueries({ queryKey: ["revisions"] }))
      .catch(() => setFailed(true));
  };
  const keep = (e: FormEvent) => {
    e.preventDefault();
    act(() => saveNow(reason));
    setReason("");
  };
  const pin = (r: Revision) =>
    act(() =>
      ask(
        client.PATCH("/api/revisions/{revision_id}", {
          params: { path: { revision_id: r.id } },
          body: { pinned: !r.pinned },
        }),
      ),
    );
  const compare = (r: Revision) =>
    act(async () =>
      setVariant(
        await ask(
          client.PUT("/api/variants/{variant_id}/baseline", {
            params: { path: { variant_id: variant.id } },
            body: { revision: variant.baseline?.id === r.id ? null : r.id },
          }),
        ),
      ),
    );
  const goBack = (r: Revision) =>
    act(async () => {
      const found = await ask(client.GET("/api/revisions/{revision_id}", { params: { path: { revision_id: r.id } } }));
      edit(`Back to revision ${r.number}`, (draft) => Object.assign(draft, found.design));
    });
  return (
    <Section title="Revisions">
      <form onSubmit={keep} className="mb-3 flex gap-2">
        <input
          className={INPUT}
          aria-label="Reason for this revision"
          placeholder="What is this state, and why keep it?"
          maxLength={300}
          value={reason}
          onChange={(e) => setReason(e.target.value)}
        />
        <Button type="submit" disabled={!reason.trim()} className="shrink-0">
          Keep this state
        </Button>
      </form>
      {failed && (
        <p role="alert" className="text-fail mb-2 text-sm">
          That did not work; reload the page and try again.
        </p>
      )}
      <ul className="divide-line/60 max-h-96 divide-y overflow-y-auto">
        {list.data?.map((r) => (
          <li key={r.id} className="flex items-start gap-2 py-2">
            <div className="min-w-0 flex-1">
              <p>
                <span className="font-semibold">{r.number}</span>{" "}
                {r.reason || (r.automatic ? "saved while working" : "saved")}
                {r.id === head.id && <span className="text-soft"> (now)</span>}
              </p>
              <p className="text-soft text-sm">
                {show(r.runtime_h, "h")}, {show(r.mass_g, "g")}, {count(r.findings, "finding")}; {r.author},{" "}
                {date(r.created)}
              </p>
            </div>
            <Button
              kind="quiet"
              aria-pressed={variant.baseline?.id === r.id}
              className={variant.baseline?.id === r.id ? "bg-well" : ""}
              onClick={() => compare(r)}
            >
              {variant.baseline?.id === r.id ? "Compared with" : "Compare with"}
            </Button>
            {r.id !== head.id && (
              <Button kind="quiet" onClick={() => goBack(r)}>
                Go back
              </Button>
            )}
            <IconButton
              label={r.pinned ? `Unpin revision ${r.number}` : `Pin revision ${r.number}`}
              onClick={() => pin(r)}
            >
              {r.pinned ? <PinOff size={15} /> : <Pin size={15} />}
            </IconButton>
          </li>
        ))}
      </ul>
    </Section>
  );
}
