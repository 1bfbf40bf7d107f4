// Which cell suits: every cell of the catalogue against the brief, those that are out with their reason.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import { actions, useOpenDesign } from "../../design/store";
import { Problems } from "../../ui/problems";
import { Button, Check, Choice } from "../../ui/controls";
import { Dialog } from "../../ui/dialog";
import { count } from "../../ui/format";
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
      <Dialog title="Which cell suits" open={open} onOpenChange={setOpen} wide>
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

function Cells({ close }: { close: () => void }) {
  const design = useOpenDesign();
  const [all, setAll] = useState(false);
  const [order, setOrder] = useState<Order>("runtime");
  const cells = useQuery<Schemas["CellChoice"][], ProblemError>({
    queryKey: ["cells", design],
    queryFn: () => ask(client.POST("/api/answers/cells", { body: design })),
    staleTime: Infinity,
    gcTime: 60_000,
  });
  // what does harm as it stands is tried with the charger and the places that it asks for, which takes longer
  const harms = cells.data?.some((r) => r.harm) ?? false;
  const changed = useQuery<Schemas["CellChoice"][], ProblemError>({
    queryKey: ["cells", "with changes", design],
    queryFn: () => ask(client.POST("/api/answers/cells", { body: design, params: { query: { with_changes: true } } })),
    enabled: harms,
    staleTime: Infinity,
    gcTime: 60_000,
  });
  if (cells.isPending) return <p className="text-soft">Trying every cell on the gadget</p>;
  if (cells.error) return <Problems error={cells.error} />;
  const found = changed.data ?? cells.data;
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
          {count(fitting, "pack")} of {found.length} {fitting === 1 ? "meets" : "meet"} the brief at its coldest
          {harms && `, ${asIs || "none"} of them without a change of something else`}
          {asOne > 0 && `, ${asOne} with the charger and the places that go with ${asOne === 1 ? "it" : "them"}`}.
          {changed.isFetching && (
            <span role="status" className="text-soft">
              {" "}
              The others are being tried with what they ask for.
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
