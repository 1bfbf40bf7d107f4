// Which cell suits: every cell of the catalogue against the brief, those that are out with their reason.
import { useState } from "react";
import { actions, useOpenDesign } from "../../design/store";
import { Problems } from "../../ui/problems";
import { Button, Check, Choice } from "../../ui/controls";
import { Dialog } from "../../ui/dialog";
import { count } from "../../ui/format";
import { RankedTable } from "../../design/fields/ranked";
import { newest, useCells, type Row } from "./cells";

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
function packName(row: Row): string {
  const series = row.series > 1 ? `${row.series} × ` : "";
  return `${series}${row.name}${row.parallel > 1 ? `, ${row.parallel} in parallel` : ""}`;
}

/** Those that suit first, of these those that go in as it stands, each group in the chosen order. */
function ordered(rows: Row[], by: Order): Row[] {
  const sign = by === "runtime" ? -1 : 1;
  const key = (r: Row) => sign * (r[by].value ?? sign * Infinity);
  return [...rows].sort(
    (a, b) => Number(b.fits) - Number(a.fits) || Number(a.harm) - Number(b.harm) || key(a) - key(b),
  );
}

function Cells({ close }: { close: () => void }) {
  const design = useOpenDesign();
  const [showAll, setShowAll] = useState(false);
  const [order, setOrder] = useState<Order>("runtime");
  const { settled, all, tried, changed, error, again } = useCells(design);
  const failed = error && (
    <div className="my-2">
      <Problems error={error} again={again} />
    </div>
  );
  if (!settled) return failed || <p className="text-soft">Looking at every cell</p>;
  const fitting = all.filter((r) => r.fits).length;
  const asIs = all.filter((r) => r.fits && !r.harm && r.changed.length === 0 && !r.now).length;
  const asOne = all.filter((r) => r.changed.length > 0).length;
  const rows = ordered(
    settled.filter((r) => showAll || r.fits || r.now),
    order,
  ).map((r) => newest(r, all));
  return (
    <>
      <p>
        {count(fitting, "pack")} of {all.length}{" "}
        {tried.over ? (fitting === 1 ? "meets" : "meet") : fitting === 1 ? "looks as if it met" : "look as if they met"}{" "}
        the brief at its coldest
        {tried.over && changed.of > 0 && `, ${asIs || "none"} of them without a change of something else`}
        {asOne > 0 && `, ${asOne} with the charger and the places that go with ${asOne === 1 ? "it" : "them"}`}.
        {!error && !(tried.over && changed.over && !changed.isFetching) && (
          <span role="status" className="text-soft">
            {" "}
            {!tried.over
              ? `Each is tried whole in the gadget: ${tried.asked} of ${tried.of}.`
              : `Those that do harm are tried with what they ask for: ${changed.asked} of ${changed.of}.`}
          </span>
        )}
      </p>
      {failed}
      <div className="my-2 flex flex-wrap items-center gap-4">
        <div className="w-48">
          <Choice bare label="Order" value={order} options={ORDERS} onChange={setOrder} />
        </div>
        <Check label="Show those that are out, with the reason" checked={showAll} onChange={setShowAll} />
        {changed.over && changed.more && !error && (
          <Button disabled={changed.isFetching} onClick={() => void changed.more?.()}>
            {`Try more of the other ${changed.of - changed.asked} with what they ask for`}
          </Button>
        )}
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
