// What if: converters for a rail ranked on this gadget's day, and the rail gone, at another voltage, or without one.
import { useQuery } from "@tanstack/react-query";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import { actions, useOpenDesign } from "../../design/store";
import type { Remedy } from "../../design/types";
import { Button } from "../../ui/controls";
import { Dialog } from "../../ui/dialog";
import { FigureButton } from "../../ui/figure";
import { Problems } from "../../pages/NewGadget";

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
      ask(
        client.POST("/api/answers/rail/{rail_id}", { params: { path: { rail_id: rail.id } }, body: design as never }),
      ),
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
      <Problems error={answers.error} />
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
              <Converters rows={answers.data.converters} apply={apply} />
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

const COLUMNS: [keyof Schemas["ConverterChoice"] & string, string][] = [
  ["runtime", "runtime"],
  ["loss", "loss"],
  ["headroom", "headroom"],
  ["peak_margin", "above peak"],
  ["quiescent", "quiescent"],
  ["area", "room"],
  ["cost", "cost"],
];

function Converters({ rows, apply }: { rows: Schemas["ConverterChoice"][]; apply: (r: Remedy) => void }) {
  return (
    <div className="mt-1 overflow-x-auto" role="region" aria-label="Converters, ranked" tabIndex={0}>
      <table className="w-full text-sm">
        <thead>
          <tr>
            <th scope="col" className="border-line border-b py-1 pr-2 text-left font-medium">
              converter
            </th>
            {COLUMNS.map(([key, name]) => (
              <th key={key} scope="col" className="border-line border-b px-2 py-1 text-right font-medium">
                {name}
              </th>
            ))}
            <td className="border-line border-b" />
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.name} className={`border-line/60 border-b ${row.fits ? "" : "text-soft"}`}>
              <th scope="row" className="max-w-64 py-1.5 pr-2 text-left font-normal">
                {row.name}
                {row.now && <span className="text-soft"> (now)</span>}
                {!row.fits && <span className="text-fail block text-xs">{row.reasons.join("; ")}</span>}
              </th>
              {COLUMNS.map(([key]) => (
                <td key={key} className="px-2 py-1.5 text-right whitespace-nowrap">
                  <FigureButton figure={row[key] as Schemas["Figure"]} />
                </td>
              ))}
              <td className="py-1 text-right">
                {!row.now && (
                  <Button disabled={!row.fits} aria-label={`Use ${row.name}`} onClick={() => apply(row.remedy)}>
                    Use
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
