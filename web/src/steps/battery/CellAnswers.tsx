// Which cell suits: every cell of the catalogue against the brief, those that are out with their reason.
import { useInfiniteQuery, useQuery, type InfiniteData } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
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

type Row = Schemas["CellChoice"];

const ONCE = { staleTime: Infinity, gcTime: 60_000 };
const PORTIONS = { whole: 6, "with changes": 3 } as const; // cells asked for at once: about half a second's work
const AT_ONCE = 12; // that do harm, tried with what they ask for without being asked to
const ENOUGH = 8; // that work

/** Cells of these names, judged in the gadget portion by portion: as long as `goOn` says, or one at a press. */
function useTried(
  design: Design,
  depth: keyof typeof PORTIONS,
  names: readonly string[],
  goOn: (rows: readonly Row[], asked: number) => boolean,
) {
  const portion = PORTIONS[depth];
  const found = useInfiniteQuery<Row[], ProblemError, InfiniteData<Row[]>, unknown[], number>({
    queryKey: ["cells", depth, design],
    queryFn: ({ pageParam, signal }) => {
      const name = names.slice(pageParam, pageParam + portion);
      return ask(client.POST("/api/answers/cells", { body: design, params: { query: { depth, name } }, signal }));
    },
    initialPageParam: 0,
    getNextPageParam: (_last, _all, asked) => (asked + portion < names.length ? asked + portion : undefined),
    enabled: names.length > 0,
    ...ONCE,
  });
  const rows = useMemo(() => found.data?.pages.flat() ?? [], [found.data]);
  const asked = Math.min((found.data?.pages.length ?? 0) * portion, names.length);
  const next = found.hasNextPage && !found.isFetching && !found.error;
  const { fetchNextPage } = found;
  const goesOn = next && goOn(rows, asked);
  useEffect(() => {
    if (goesOn) void fetchNextPage();
  }, [goesOn, fetchNextPage]);
  const resting = found.isFetched && !found.isFetching && !goesOn;
  return { rows, asked, error: found.error, over: names.length === 0 || resting, more: next ? fetchNextPage : null };
}

const samePack = (a: Row) => (b: Row) =>
  !b.now && a.name === b.name && a.series === b.series && a.parallel === b.parallel;

/** Rows, with what later was found of their cells in their place. */
function replaced(rows: readonly Row[], by: readonly Row[]): Row[] {
  const names = new Set(by.map((r) => r.name));
  return [...rows.filter((r) => r.now || !names.has(r.name)), ...by];
}

const namesOf = (rows: readonly Row[]) => [...new Set(rows.map((r) => r.name))];
const working = (rows: readonly Row[]) => rows.filter((r) => r.fits && !r.harm && !r.now).length;

/** All cells as far as they are known: at first sight, then each that may suit judged whole in the gadget, then those that do harm tried with the charger
 * and the places that they ask for. What is still to come moves no row: it is put in order once a round is over. */
function useCells(design: Design) {
  const sight = useQuery<Row[], ProblemError>({
    queryKey: ["cells", "first sight", design],
    queryFn: ({ signal }) =>
      ask(
        client.POST("/api/answers/cells", {
          body: design,
          params: { query: { depth: "first sight" } },
          signal,
        }),
      ),
    ...ONCE,
  });
  const seen = sight.data ?? [];
  const open = namesOf(seen.filter((r) => r.open));
  const tried = useTried(design, "whole", open, () => true);
  const whole = replaced(seen, tried.rows);
  const harmful = whole.filter((r) => r.harm).sort((a, b) => (a.volume.value ?? 0) - (b.volume.value ?? 0));
  const asking = tried.over && sight.isFetched ? namesOf(harmful) : [];
  const changed = useTried(
    design,
    "with changes",
    asking,
    (rows, asked) => asked < AT_ONCE && working(replaced(whole, rows)) < ENOUGH,
  );
  const all = replaced(whole, changed.rows);
  const settled = !tried.over ? seen : !changed.over ? whole : all;
  return {
    found: sight.data && settled,
    newest: (row: Row) => (row.now ? row : (all.find(samePack(row)) ?? row)),
    all,
    tried: { over: tried.over, asked: tried.asked, of: open.length },
    changed: { over: changed.over, asked: changed.asked, of: asking.length, more: changed.more },
    error: sight.error ?? tried.error ?? changed.error,
  };
}

function Cells({ close }: { close: () => void }) {
  const design = useOpenDesign();
  const [showAll, setShowAll] = useState(false);
  const [order, setOrder] = useState<Order>("runtime");
  const { found, newest, all, tried, changed, error } = useCells(design);
  if (!found) return error ? <Problems error={error} /> : <p className="text-soft">Looking at every cell</p>;
  const fitting = all.filter((r) => r.fits).length;
  const asIs = all.filter((r) => r.fits && !r.harm && r.changed.length === 0 && !r.now).length;
  const asOne = all.filter((r) => r.changed.length > 0).length;
  const rows = ordered(
    found.filter((r) => showAll || r.fits || r.now),
    order,
  ).map(newest);
  return (
    <>
      <p>
        {count(fitting, "pack")} of {all.length}{" "}
        {tried.over ? (fitting === 1 ? "meets" : "meet") : fitting === 1 ? "looks as if it met" : "look as if they met"}{" "}
        the brief at its coldest
        {tried.over && changed.of > 0 && `, ${asIs || "none"} of them without a change of something else`}
        {asOne > 0 && `, ${asOne} with the charger and the places that go with ${asOne === 1 ? "it" : "them"}`}.
        {!error && !(tried.over && changed.over) && (
          <span role="status" className="text-soft">
            {" "}
            {!tried.over
              ? `Each is tried whole in the gadget: ${tried.asked} of ${tried.of}.`
              : `Those that do harm are tried with what they ask for: ${changed.asked} of ${changed.of}.`}
          </span>
        )}
      </p>
      <Problems error={error} />
      <div className="my-2 flex flex-wrap items-center gap-4">
        <div className="w-48">
          <Choice bare label="Order" value={order} options={ORDERS} onChange={setOrder} />
        </div>
        <Check label="Show those that are out, with the reason" checked={showAll} onChange={setShowAll} />
        {tried.over && changed.over && changed.more && (
          <Button onClick={() => void changed.more?.()}>
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
