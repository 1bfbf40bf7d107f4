// Which cell suits: every cell of the catalogue against the brief, those that are out with their reason.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import { actions, useOpenDesign } from "../../design/store";
import { Problems } from "../../ui/problems";
import { Button, Check, Choice } from "../../ui/controls";
import { Dialog } from "../../ui/dialog";
import { count } from "../../ui/format";
import type { Design } from "../../design/types";
import { RankedTable } from "../../design/fields/ranked";

const COLUMNS = [
  ["runtime", "when coldest"],
  ["peak", "peak"],
  ["needed", "needed"],
  ["mass", "mass"],
  ["volume", "room"],
  ["cost", "cost"],
] as const;

export function CellAnswers() {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>Which cell suits?</Button>
      <Dialog title="Which cell suits" open={open} onOpenChange={setOpen} wide="table">
        {open && <Cells close={() => setOpen(false)} />}
      </Dialog>
    </>
  );
}

const ORDERS = [
  ["runtime", "longest when coldest"],
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

/** Those that suit first, of these those that go in as it stands, each group in the chosen order. */
function ordered(rows: Schemas["CellChoice"][], by: Order): Schemas["CellChoice"][] {
  const sign = by === "runtime" ? -1 : 1;
  const key = (r: Schemas["CellChoice"]) => sign * (r[by].value ?? sign * Infinity);
  return [...rows].sort(
    (a, b) => Number(b.fits) - Number(a.fits) || Number(a.harm) - Number(b.harm) || key(a) - key(b),
  );
}

function useCells(design: Design, depth: Schemas["CellsQuery"]["depth"], enabled: boolean) {
  return useQuery<Schemas["CellChoice"][], ProblemError>({
    queryKey: ["cells", depth, design],
    queryFn: () => ask(client.POST("/api/answers/cells", { body: design, params: { query: { depth } } })),
    enabled,
    staleTime: Infinity,
    gcTime: 60_000,
  });
}

function Cells({ close }: { close: () => void }) {
  const design = useOpenDesign();
  const [all, setAll] = useState(false);
  const [order, setOrder] = useState<Order>("runtime");
  // at first sight, at once; then each that suits is judged whole in the gadget
  const sight = useCells(design, "first sight", true);
  const cells = useCells(design, "whole", sight.isFetched);
  // what does harm as it stands is tried with the charger and the places that it asks for, which takes longer
  const harms = cells.data?.some((r) => r.harm) ?? false;
  const changed = useCells(design, "with changes", harms);
  const found = changed.data ?? cells.data ?? sight.data;
  if (cells.error) return <Problems error={cells.error} />;
  if (!found)
    return sight.error ? <Problems error={sight.error} /> : <p className="text-soft">Looking at every cell</p>;
  const tried = found.every((r) => r.tried || !r.fits);
  const fitting = found.filter((r) => r.fits).length;
  const asIs = found.filter((r) => r.fits && !r.harm && r.changed.length === 0 && !r.now).length;
  const asOne = found.filter((r) => r.changed.length > 0).length;
  const rows = ordered(
    found.filter((r) => all || r.fits || r.now),
    order,
  );
  return (
    <>
      <div className="mb-2 flex flex-wrap items-center justify-between gap-2">
        <p>
          {count(fitting, "pack")} of {found.length}{" "}
          {tried ? (fitting === 1 ? "meets" : "meet") : fitting === 1 ? "looks as if it met" : "look as if they met"}{" "}
          the brief at its coldest
          {harms && `, ${asIs || "none"} of them without a change of something else`}
          {asOne > 0 && `, ${asOne} with the charger and the places that go with ${asOne === 1 ? "it" : "them"}`}.
          {(cells.isFetching || changed.isFetching) && (
            <span role="status" className="text-soft">
              {" "}
              {tried ? "The others are being tried with what they ask for." : "Each is now tried whole in the gadget."}
            </span>
          )}
        </p>
        <Problems error={changed.error} />
        <div className="w-48">
          <Choice bare label="Order" value={order} options={ORDERS} onChange={setOrder} />
        </div>
        <Check label="Show those that are out, with the reason" checked={all} onChange={setAll} />
      </div>
      <RankedTable
        label="Cells, ranked"
        what="cell"
        rows={rows}
        columns={COLUMNS}
        name={packName}
        use={(remedy) => {
          actions.applyRemedy(remedy.label, remedy.patch);
          close();
        }}
      />
    </>
  );
}
