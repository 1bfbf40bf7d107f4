// The grid's gestures without a page.
import { expect, test } from "vitest";
import { filled, fromTsv, pasted, rangeOf, selectionAfter, toTsv, type Gesture, type Selection } from "./grid";

const GRID = { parts: ["a", "b", "c"], modes: ["off", "on"] };
const at = (part: string, mode: string) => ({ part, mode });
const one = (part: string, mode: string): Selection => ({ at: at(part, mode), anchor: null });
const moved = (now: Selection, down: number, across: number, stretch = false) =>
  selectionAfter(GRID, now, { do: "move", down, across, stretch });

test("moves stay inside the grid", () => {
  expect(moved(one("a", "off"), 1, 1)).toEqual(one("b", "on"));
  expect(moved(one("a", "off"), -1, -1)).toEqual(one("a", "off"));
  expect(moved(one("c", "on"), 8, 999)).toEqual(one("c", "on"));
  expect(
    selectionAfter({ parts: [], modes: [] }, one("a", "on"), { do: "move", down: 1, across: 0, stretch: false }),
  ).toEqual(one("a", "on"));
});

test("stretching keeps the first corner until something is taken alone", () => {
  const first = moved(one("b", "off"), 1, 0, true);
  const second = moved(first, 0, 1, true);
  expect(second).toEqual({ at: at("c", "on"), anchor: at("b", "off") });
  expect(rangeOf(GRID, second)).toEqual([
    [at("b", "off"), at("b", "on")],
    [at("c", "off"), at("c", "on")],
  ]);
  const taken = selectionAfter(GRID, second, { do: "take", cell: at("a", "on"), stretch: true });
  expect(taken).toEqual({ at: at("a", "on"), anchor: at("b", "off") });
  expect(selectionAfter(GRID, taken, { do: "single" })).toEqual(one("a", "on"));
  expect(moved(second, -1, 0).anchor).toBeNull();
});

test("a range is the same rectangle from each of its corners", () => {
  const corners = [at("a", "off"), at("b", "on")] as const;
  const there = rangeOf(GRID, { at: corners[1], anchor: corners[0] });
  expect(rangeOf(GRID, { at: corners[0], anchor: corners[1] })).toEqual(there);
  expect(rangeOf(GRID, { at: at("gone", "on"), anchor: null })).toEqual([]);
});

test("fills take the first column, or the first row", () => {
  const range = rangeOf(GRID, { at: at("b", "on"), anchor: at("a", "off") });
  const textOf = ({ part, mode }: { part: string; mode: string }) => `${part} ${mode}`;
  expect(filled(range, "left", textOf).map((t) => t.text)).toEqual(["a off", "a off", "b off", "b off"]);
  expect(filled(range, "above", textOf).map((t) => t.text)).toEqual(["a off", "a on", "a off", "a on"]);
});

test("a block is cut off at the edges, a single text goes everywhere", () => {
  const range = rangeOf(GRID, one("b", "on"));
  expect(pasted(GRID, range, [["1", "2"], ["3", "4"], ["5"]])).toEqual([
    { part: "b", mode: "on", text: "1" },
    { part: "c", mode: "on", text: "3" },
  ]);
  const all = rangeOf(GRID, { at: at("c", "on"), anchor: at("a", "off") });
  expect(pasted(GRID, all, [["idle"]]).map((t) => t.text)).toEqual(Array(6).fill("idle"));
  expect(pasted(GRID, [], [["x"], ["y"]])).toEqual([]);
});

test("spreadsheets' texts come and go, with tabs, lines and quotes inside", () => {
  const rows = [
    ["12 mA", 'a "quoted" text'],
    ["two\nlines", "a\ttab"],
  ];
  expect(fromTsv(toTsv(rows))).toEqual(rows);
  expect(fromTsv("a\tb\r\nc\td\r\n")).toEqual([
    ["a", "b"],
    ["c", "d"],
  ]);
  expect(fromTsv(' x \t"y"')).toEqual([["x", "y"]]);
});

test("any row of gestures keeps a selection that is in the grid", () => {
  let seed = 7;
  const random = (n: number) => (seed = (seed * 16807) % 2147483647) % n;
  let now = one("a", "off");
  for (let i = 0; i < 500; i++) {
    const gestures: Gesture[] = [
      { do: "move", down: random(5) - 2, across: random(5) - 2, stretch: random(2) === 0 },
      { do: "take", cell: at(GRID.parts[random(3)]!, GRID.modes[random(2)]!), stretch: random(2) === 0 },
      { do: "single" },
    ];
    now = selectionAfter(GRID, now, gestures[random(3)]!);
    const range = rangeOf(GRID, now);
    expect(range.flat()).toContainEqual(now.at);
    if (now.anchor) expect(range.flat()).toContainEqual(now.anchor);
  }
});
