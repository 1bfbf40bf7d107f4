// Which cell suits, portion by portion: what is asked for, and the rows as far as they are known.
import { useInfiniteQuery, useQuery, type InfiniteData } from "@tanstack/react-query";
import { useEffect, useMemo } from "react";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import type { Design } from "../../design/types";

export type Row = Schemas["CellChoice"];

const PORTIONS = { whole: 6, "with changes": 3 } as const; // cells asked for at once: about half a second's work
const MOST_LETTERS = 300; // of their names, which stand in the address
const AT_ONCE = 12; // that do harm, tried with what they ask for without being asked to
const ENOUGH = 8; // that work
// without a connection it fails at once, and says so
const ONCE = { staleTime: Infinity, gcTime: 60_000 } as const;

/** Names in groups of so many, and of no more letters together than an address holds. */
export function inPortions(names: readonly string[], most: number): string[][] {
  const portions: string[][] = [];
  for (const name of names) {
    const last = portions.at(-1);
    if (last && last.length < most && last.join("").length + name.length <= MOST_LETTERS) last.push(name);
    else portions.push([name]);
  }
  return portions;
}

/** Rows, with what later was found of their cells in their place. */
export function replaced(rows: readonly Row[], by: readonly Row[]): Row[] {
  const names = new Set(by.map((r) => r.name));
  return [...rows.filter((r) => r.now || !names.has(r.name)), ...by];
}

/** The row of the same pack among others, else itself. */
export const newest = (row: Row, among: readonly Row[]): Row =>
  among.find(
    (r) => r.name === row.name && r.position === row.position && r.series === row.series && r.parallel === row.parallel,
  ) ?? row;

const namesOf = (rows: readonly Row[]) => [...new Set(rows.map((r) => r.name))];
const working = (rows: readonly Row[]) => rows.filter((r) => r.fits && !r.harm && !r.now).length;

/** Cells of these names, judged in the gadget portion by portion: as long as `goOn` says, then one at a press. */
function useTried(
  design: Design,
  depth: keyof typeof PORTIONS,
  names: readonly string[],
  goOn: (rows: readonly Row[], asked: number) => boolean,
) {
  const portions = inPortions(names, PORTIONS[depth]);
  const query = useInfiniteQuery<Row[], ProblemError, InfiniteData<Row[]>, unknown[], number>({
    queryKey: ["cells", depth, design],
    queryFn: ({ pageParam, signal }) =>
      ask(
        client.POST("/api/answers/cells", {
          body: design,
          params: { query: { depth, name: portions[pageParam] } },
          signal,
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (_last, _all, at) => (at + 1 < portions.length ? at + 1 : undefined),
    enabled: portions.length > 0,
    ...ONCE,
  });
  const { data, error, isFetching, hasNextPage, fetchNextPage } = query;
  const rows = useMemo(() => data?.pages.flat() ?? [], [data]);
  const asked = portions.slice(0, data?.pages.length ?? 0).flat().length;
  const goesOn = hasNextPage && goOn(rows, asked);
  const wanted = goesOn && !isFetching && !error;
  useEffect(() => {
    if (wanted) void fetchNextPage();
  }, [wanted, fetchNextPage]);
  return {
    rows,
    asked,
    of: names.length,
    error: isFetching ? null : error,
    isFetching,
    /** nothing more is asked for by itself */
    over: !portions.length || (!!data && !goesOn),
    more: hasNextPage ? fetchNextPage : null,
    again: fetchNextPage,
  };
}

/** All cells as far as they are known: at first sight, then each that may suit judged whole in the gadget, then those that do harm tried with the charger
 * and the places that they ask for. What is still to come moves no row: they are put in order once a round is over. */
export function useCells(design: Design) {
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
  const tried = useTried(design, "whole", namesOf(seen.filter((r) => r.open)), () => true);
  const whole = replaced(seen, tried.rows);
  const harmful = whole.filter((r) => r.harm && r.fits).sort((a, b) => (a.volume.value ?? 0) - (b.volume.value ?? 0));
  const changed = useTried(
    design,
    "with changes",
    tried.over ? namesOf(harmful) : [],
    (rows, asked) => asked < AT_ONCE && working(replaced(whole, rows)) < ENOUGH,
  );
  const all = replaced(whole, changed.rows);
  const settled = !tried.over ? seen : !changed.over ? whole : all;
  const failed = [tried, changed].find((round) => round.error);
  return {
    settled: sight.data ? settled : null,
    all,
    tried,
    changed,
    error: (sight.isFetching ? null : sight.error) ?? failed?.error ?? null,
    again: () => void (failed ? failed.again() : sight.refetch()),
  };
}
