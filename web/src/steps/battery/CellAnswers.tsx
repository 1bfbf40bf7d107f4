// Which cell suits: every cell of the catalogue against the brief, those that are out with their reason.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import { actions, useOpenDesign } from "../../design/store";
import { Problems } from "../../pages/NewGadget";
import { Button, Check, Choice } from "../../ui/controls";
import { Dialog } from "../../ui/dialog";
import { FigureButton } from "../../ui/figure";
import { count } from "../../ui/format";

const COLUMNS: [keyof Schemas["CellChoice"] & string, string][] = [
  ["peak", "peak"],
  ["needed", "needed"],
  ["mass", "mass"],
  ["volume", "room"],
  ["cost", "cost"],
];

export function CellAnswers() {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>Which cell suits?</Button>
      <Dialog title="Which cell suits" open={open} onOpenChange={setOpen} wide>
        {open && <Cells close={() => setOpen(false)} />}
      </Dialog>
    </>
  );
}

const ORDERS = [
  ["runtime", "longest runtime"],
  ["mass", "lightest"],
  ["volume", "smallest"],
  ["cost", "cheapest"],
] as const;
type Order = (typeof ORDERS)[number][0];

/** "2 × 3 in parallel" where there is more than one. */
function packName(row: Schemas["CellChoice"]): string {
  const series = row.series > 1 ? `${row.series} × ` : "";
  return `${series}${row.name}${row.parallel > 1 ? `, ${row.parallel} in parallel` : ""}`;
}

/** Those that suit first, each group in the chosen order. */
function ordered(rows: Schemas["CellChoice"][], by: Order): Schemas["CellChoice"][] {
  const sign = by === "runtime" ? -1 : 1;
  const key = (r: Schemas["CellChoice"]) => sign * (r[by].value ?? sign * Infinity);
  return [...rows].sort((a, b) => Number(b.fits) - Number(a.fits) || key(a) - key(b));
}

function Cells({ close }: { close: () => void }) {
  const design = useOpenDesign();
  const [all, setAll] = useState(false);
  const [order, setOrder] = useState<Order>("runtime");
  const cells = useQuery<Schemas["CellChoice"][], ProblemError>({
    queryKey: ["cells", design],
    queryFn: () => ask(client.POST("/api/answers/cells", { body: design as never })),
    staleTime: Infinity,
    gcTime: 60_000,
  });
  if (cells.isPending) return <p className="text-soft">Trying every cell on the gadget</p>;
  if (cells.error) return <Problems error={cells.error} />;
  const fitting = cells.data.filter((r) => r.fits).length;
  const rows = ordered(
    cells.data.filter((r) => all || r.fits || r.now),
    order,
  );
  return (
    <>
      <div className="mb-2 flex flex-wrap items-center justify-between gap-2">
        <p>
          {count(fitting, "pack")} of {cells.data.length} {fitting === 1 ? "meets" : "meet"} the brief at its coldest.
        </p>
        <div className="w-48">
          <Choice bare label="Order" value={order} options={ORDERS} onChange={setOrder} />
        </div>
        <Check label="Show those that are out, with the reason" checked={all} onChange={setAll} />
      </div>
      <div className="overflow-x-auto" role="region" aria-label="Cells, ranked" tabIndex={0}>
        <table className="w-full text-sm">
          <thead>
            <tr>
              <th scope="col" className="border-line border-b py-1 pr-2 text-left font-medium">
                cell
              </th>
              <th scope="col" className="border-line border-b px-2 py-1 text-right font-medium">
                runtime
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
            {rows.map((row) => {
              const name = packName(row);
              return (
                <tr key={`${name} ${row.now}`} className={`border-line/60 border-b ${row.fits ? "" : "text-soft"}`}>
                  <th scope="row" className="py-1.5 pr-2 text-left font-normal">
                    {name}
                    {row.now && <span className="text-soft"> (now)</span>}
                    {!row.fits && <span className="text-fail block text-xs">{row.reasons.join("; ")}</span>}
                  </th>
                  <td className="px-2 py-1.5 text-right whitespace-nowrap">
                    <FigureButton figure={row.runtime} withRange={row.fits} />
                  </td>
                  {COLUMNS.map(([key]) => (
                    <td key={key} className="px-2 py-1.5 text-right whitespace-nowrap">
                      <FigureButton figure={row[key] as Schemas["Figure"]} />
                    </td>
                  ))}
                  <td className="py-1 text-right">
                    {!row.now && (
                      <Button
                        disabled={!row.fits}
                        aria-label={`Use ${name}`}
                        onClick={() => {
                          actions.applyRemedy(row.remedy.label, row.remedy.patch);
                          close();
                        }}
                      >
                        Use
                      </Button>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </>
  );
}
