// Cells are asked for in portions, and what comes of each goes into its own row.
import { expect, test } from "vitest";
import { shared } from "../../design/fields/ranked";
import { inPortions, newest, replaced, type Row } from "./cells";

const row = (name: string, more: Partial<Row> = {}) =>
  ({ name, position: 1, series: 1, parallel: 1, now: false, marks: [], ...more }) as Row;

test("portions keep the order, and hold so many names and so many letters", () => {
  const names = Array.from({ length: 7 }, (_, i) => `cell ${i}`);
  expect(inPortions(names, 3).map((p) => p.length)).toEqual([3, 3, 1]);
  expect(inPortions(names, 3).flat()).toEqual(names);
  expect(inPortions([], 3)).toEqual([]);
  const long = (letters: number) => inPortions(["a".repeat(150), "b".repeat(letters)], 6).length;
  expect([long(150), long(151)]).toEqual([1, 2]);
});

test("what is found of a cell takes the place of all its rows, not of the present one", () => {
  const before = [row("A", { now: true }), row("A"), row("A", { parallel: 2 }), row("B")];
  const after = replaced(before, [row("A", { tried: true })]);
  expect(after.map((r) => [r.name, r.now, r.tried])).toEqual([
    ["A", true, undefined],
    ["B", false, undefined],
    ["A", false, true],
  ]);
});

test("a row is followed by its own pack: not by another number of cells, another cell of its name, or the present one", () => {
  const own = row("A", { tried: true });
  expect(newest(row("A"), [row("A", { position: null, now: true }), own])).toBe(own);
  for (const other of [{ series: 2 }, { parallel: 2 }, { position: 2 }]) {
    const stays = row("A", other);
    expect(newest(stays, [own])).toBe(stays);
  }
});

test("only what each row bears is said once above them", () => {
  const heavy = row("A", { marks: ["heavy", "dear"] });
  expect(shared([row("X", { now: true }), heavy, heavy, row("B", { marks: ["heavy"] })])).toEqual(["heavy"]);
  expect(shared([heavy, heavy, row("B")])).toEqual([]);
  expect(shared([heavy, heavy])).toEqual([]);
});
