// What would do in a part's place: what is kept beside it, and what the catalogue has of its kind, each tried in the whole gadget.
import { useQuery } from "@tanstack/react-query";
import { X } from "lucide-react";
import { useState } from "react";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import { RankedTable } from "../../design/fields/ranked";
import { actions, useOpenDesign } from "../../design/store";
import type { Part, Remedy } from "../../design/types";
import { Button, INPUT } from "../../ui/controls";
import { Dialog } from "../../ui/dialog";
import { count } from "../../ui/format";
import { Problems } from "../../ui/problems";
import type { ChangePart } from "./change";

const COLUMNS = [
  ["runtime", "runtime"],
  ["mass", "mass"],
  ["cost", "cost"],
] as const;

export function Instead({ part, change }: { part: Part; change: ChangePart }) {
  const [open, setOpen] = useState(false);
  const kept = part.alternatives;
  return (
    <section aria-label="In its place" className="space-y-1">
      {kept.length > 0 && (
        <>
          <p className="text-sm">Kept beside it</p>
          <ul className="text-sm">
            {kept.map((other) => (
              <li key={other.name} className="flex items-center justify-between gap-2">
                {other.name}
                <Button
                  kind="quiet"
                  aria-label={`No longer keep ${other.name}`}
                  onClick={() =>
                    change(
                      "No longer kept",
                      (x) => (x.alternatives = x.alternatives.filter((o) => o.name !== other.name)),
                    )
                  }
                >
                  <X size={15} aria-hidden />
                </Button>
              </li>
            ))}
          </ul>
        </>
      )}
      <Button onClick={() => setOpen(true)}>What would do in its place?</Button>
      <Dialog title={`In the place of ${part.name}`} open={open} onOpenChange={setOpen} wide>
        {open && <Others part={part} close={() => setOpen(false)} />}
      </Dialog>
    </section>
  );
}

function Others({ part, close }: { part: Part; close: () => void }) {
  const design = useOpenDesign();
  const [typed, setTyped] = useState("");
  const [text, setText] = useState("");
  const answer = useQuery<Schemas["InsteadAnswer"], ProblemError>({
    queryKey: ["instead", part.id, text, design],
    queryFn: () =>
      ask(
        client.POST("/api/answers/instead/{part_id}", {
          params: { path: { part_id: part.id }, query: { text } },
          body: design,
        }),
      ),
    staleTime: Infinity,
    gcTime: 60_000,
    placeholderData: (before) => before,
  });
  const apply = (remedy: Remedy) => actions.applyRemedy(remedy.label, remedy.patch);
  return (
    <>
      <form
        className="mb-2 flex max-w-md items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          setText(typed);
        }}
      >
        <input
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
          className={INPUT}
          aria-label="What it is like"
          placeholder="e-paper, 1.5 inch …"
          autoComplete="off"
          maxLength={100}
        />
        <Button type="submit">Look</Button>
      </form>
      {answer.isPending && <p className="text-soft">Trying each in the whole gadget</p>}
      <Problems error={answer.error} again={() => void answer.refetch()} />
      {answer.data && (
        <div aria-busy={answer.isFetching}>
          <p className="text-soft text-sm">
            States of the same name stand in for each other, else the calmest for the calmest and the busiest for the
            busiest. What is there now is kept beside.
            {answer.data.more > 0 && ` ${count(answer.data.more, "other")} of its kind: type what it is like.`}
          </p>
          <RankedTable
            label="Parts in its place"
            what="part"
            rows={answer.data.rows}
            columns={COLUMNS}
            name={(row) => (row.beside ? `${row.name}, kept beside` : row.name)}
            use={(remedy) => {
              apply(remedy);
              close();
            }}
            keep={apply}
          />
        </div>
      )}
    </>
  );
}
