// A table of parts into the gadget that is open: each difference is shown before anything of it is taken over.
import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client } from "../api/client";
import { useDesign, useOpenDesign } from "../design/store";
import { Button } from "../ui/controls";
import { Dialog } from "../ui/dialog";
import { Problems } from "../ui/problems";
import { TableReader, useTableReader } from "./TableReader";

export function MergeTable({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  return (
    <Dialog title="Parts from a table" open={open} onOpenChange={onOpenChange} wide>
      <Merge onDone={() => onOpenChange(false)} />
    </Dialog>
  );
}

function Merge({ onDone }: { onDone: () => void }) {
  const design = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const reader = useTableReader();
  const table = reader.read && reader.asked;
  const [without, setWithout] = useState<readonly string[]>([]);
  const merged = useQuery({
    queryKey: ["merge", design, table],
    queryFn: ({ signal }) => ask(client.POST("/api/tables/merge", { body: { design, table: table! }, signal })),
    enabled: table !== null,
    placeholderData: keepPreviousData,
  });
  const differences = table ? (merged.data?.differences ?? []) : [];
  const chosen = differences.map((d) => d.key).filter((key) => !without.includes(key));
  const take = useMutation({
    mutationFn: () => ask(client.POST("/api/tables/merge", { body: { design, table: table!, chosen } })),
    onSuccess: (found) => {
      edit("Parts from a table", (draft) => Object.assign(draft, found.design));
      onDone();
    },
  });
  return (
    <div className="space-y-3">
      <TableReader reader={reader} />
      {table && merged.data && (
        <section aria-label="What would change">
          <h3 className="text-base">What would change</h3>
          {!differences.length && <p className="text-soft">Nothing: the gadget says the same already.</p>}
          <ul className="max-h-56 overflow-y-auto">
            {differences.map((d) => (
              <li key={d.key}>
                <label className="flex items-start gap-2 py-0.5 text-sm">
                  <input
                    type="checkbox"
                    className="mt-1 accent-(--ink)"
                    checked={!without.includes(d.key)}
                    onChange={(e) =>
                      setWithout(e.target.checked ? without.filter((k) => k !== d.key) : [...without, d.key])
                    }
                  />
                  <span>
                    <span className="font-medium">{d.part}</span>, {d.what}: {d.before && `${d.before} becomes `}
                    {d.after}
                  </span>
                </label>
              </li>
            ))}
          </ul>
        </section>
      )}
      <Problems error={merged.error ?? take.error} />
      <Button
        kind="strong"
        disabled={!chosen.length || !merged.data}
        busy={take.isPending}
        onClick={() => take.mutate()}
      >
        Take over {chosen.length} of {differences.length}
      </Button>
    </div>
  );
}
