// What if: converters for a rail ranked on this gadget's day, and the rail gone, at another voltage, or without one.
import { useQuery } from "@tanstack/react-query";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import { actions, useOpenDesign } from "../../design/store";
import type { Remedy } from "../../design/types";
import { Button } from "../../ui/controls";
import { Dialog } from "../../ui/dialog";
import { RankedTable } from "../../design/fields/ranked";
import { Problems } from "../../ui/problems";

type Rail = { id: string; name: string };

export function RailAnswers({
  rail,
  open,
  onOpenChange,
}: {
  rail: Rail;
  open: boolean;
  onOpenChange: (open: boolean) => void;
}) {
  const design = useOpenDesign();
  const answers = useQuery<Schemas["RailAnswers"], ProblemError>({
    queryKey: ["rail", rail.id, design],
    queryFn: () =>
      ask(client.POST("/api/answers/rail/{rail_id}", { params: { path: { rail_id: rail.id } }, body: design })),
    enabled: open,
    staleTime: Infinity,
    gcTime: 60_000,
  });
  const apply = (remedy: Remedy) => {
    actions.applyRemedy(remedy.label, remedy.patch);
    onOpenChange(false);
  };
  return (
    <Dialog title={`${rail.name}: what if?`} open={open} onOpenChange={onOpenChange} wide>
      {answers.isPending && <p className="text-soft">Trying every option on the whole gadget</p>}
      <Problems error={answers.error} again={() => void answers.refetch()} />
      {answers.data && (
        <div className="space-y-6">
          {answers.data.options.length > 0 && (
            <section aria-label="Other ways">
              <h3 className="mb-1 text-base">Other ways</h3>
              <ul className="divide-line/70 divide-y">
                {answers.data.options.map((o) => (
                  <li key={o.title} className="flex items-center gap-3 py-2">
                    <div className="min-w-0 flex-1">
                      <p className="font-medium">{o.title}</p>
                      <p className="text-soft text-sm">{o.sentence}</p>
                    </div>
                    {o.remedy && (
                      <Button disabled={!o.fits} aria-label={`Do it: ${o.title}`} onClick={() => apply(o.remedy!)}>
                        Do it
                      </Button>
                    )}
                  </li>
                ))}
              </ul>
            </section>
          )}
          {answers.data.converters.length > 0 && (
            <section aria-label="Converters for it">
              <h3 className="text-base">Converters for it, the longest runtime first</h3>
              <RankedTable
                label="Converters, ranked"
                what="converter"
                rows={answers.data.converters}
                columns={COLUMNS}
                name={(row) => row.name}
                use={apply}
              />
            </section>
          )}
          {answers.data.options.length + answers.data.converters.length === 0 && (
            <p className="text-soft">Nothing else suits the parts on this rail.</p>
          )}
        </div>
      )}
    </Dialog>
  );
}

const COLUMNS = [
  ["runtime", "runtime"],
  ["loss", "loss"],
  ["headroom", "headroom"],
  ["peak_margin", "above peak"],
  ["quiescent", "quiescent"],
  ["area", "room"],
  ["cost", "cost"],
] as const;
