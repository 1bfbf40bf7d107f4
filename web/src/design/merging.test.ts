// Three versions put together, and the way back carried over what came from elsewhere.
import { expect, test } from "vitest";
import demo from "../../../demo/dusk-ear.json";
import { backwards, carried, edited, EMPTY, forwards, withEdit, type History } from "./history";
import { together } from "./merging";
import { changed, numbers } from "./random";
import type { Design } from "./types";

const START = demo as unknown as Design;
const after = (design: Design, change: (d: Design) => void): Design => edited("x", design, change)?.[0] ?? design;

test("where one side changes nothing the other counts", () => {
  for (const seed of [1, 2, 3, 4, 5]) {
    const next = numbers(seed);
    const other = after(START, (d) => changed(d, next));
    expect(together(START, START, other)).toEqual(other);
    expect(together(START, other, START)).toEqual(other);
    expect(together(START, other, structuredClone(other))).toEqual(other);
  }
});

test("changes at different places are both there; at the same place theirs", () => {
  const mine = after(START, (d) => {
    d.name = "Mine";
    d.parts[0]!.cost = 7;
    d.modes.push({ ...d.modes[0]!, id: "mine", name: "Mine" });
  });
  const theirs = after(START, (d) => {
    d.name = "Theirs";
    d.parts[0]!.quantity = 3;
    d.parts.splice(1, 1);
    d.modes.push({ ...d.modes[0]!, id: "theirs", name: "Theirs" });
  });
  const both = together(START, mine, theirs);
  expect(both.name).toBe("Theirs");
  expect(both.parts[0]).toMatchObject({ cost: 7, quantity: 3 });
  expect(both.parts.map((p) => p.id)).toEqual(theirs.parts.map((p) => p.id));
  expect(both.modes.map((m) => m.id).sort()).toEqual([...START.modes.map((m) => m.id), "mine", "theirs"].sort());
});

test("another order is kept, and what came in stands behind what it stood behind", () => {
  const mine = after(START, (d) => void d.parts.reverse());
  const theirs = after(START, (d) => void d.parts.splice(1, 0, { ...d.parts[0]!, id: "new", name: "New" }));
  const ids = together(START, mine, theirs).parts.map((p) => p.id);
  expect(ids.filter((id) => id !== "new")).toEqual(START.parts.map((p) => p.id).reverse());
  expect(ids[ids.indexOf("new") - 1]).toBe(START.parts[0]!.id);
});

const back = (design: Design, history: History): Design =>
  [...history.past].reverse().reduce((d, edit) => backwards(d, edit), design);

test.each(Array.from({ length: 40 }, (_, i) => i + 1))("the way back outlives another window (seed %i)", (seed) => {
  const next = numbers(seed);
  let history = EMPTY;
  let here = START;
  const mine = ["parts", "modes", "battery", "day"] as const;
  for (let i = 0; i < 6; i += 1) {
    const place = mine[Math.floor(next() * mine.length)]!;
    const done = edited(`edit ${i}`, here, (d) => changed(d[place], next));
    if (done) [here, history] = [done[0], withEdit(history, done[1])];
  }
  // one of them taken back, so that there is something to do again
  const undone = history.past.at(-1)!;
  const now = backwards(here, undone);
  history = { past: history.past.slice(0, -1), future: [undone] };
  // the other window: elsewhere in the document
  const elsewhere = (d: Design) => {
    d.name = `${d.name} ${seed}`;
    changed(d.enclosure, numbers(seed + 1000));
    changed(d.brief, numbers(seed + 2000));
  };
  const arrived = after(now, elsewhere);
  const kept = carried(history, now, arrived);
  expect(kept.past.length).toBe(history.past.length);
  expect(back(arrived, kept)).toEqual(after(START, elsewhere)); // its change stays, mine are gone
  expect(forwards(arrived, kept.future.at(-1)!)).toEqual(after(here, elsewhere));
  // and again to where it was
  let there = back(arrived, kept);
  for (const edit of kept.past) there = forwards(there, edit);
  expect(there).toEqual(arrived);
});

test.each(Array.from({ length: 40 }, (_, i) => i + 1))(
  "also where both meet: the whole way can be gone (seed %i)",
  (seed) => {
    const next = numbers(seed);
    let history = EMPTY;
    let here = START;
    for (let i = 0; i < 6; i += 1) {
      const done = edited(`edit ${i}`, here, (d) => changed(d, next));
      if (done) [here, history] = [done[0], withEdit(history, done[1])];
    }
    const arrived = after(here, (d) => {
      for (let i = 0; i < 5; i += 1) changed(d, next);
    });
    const kept = carried(history, here, arrived);
    expect(kept.past.length).toBeLessThanOrEqual(history.past.length);
    let there = back(arrived, kept);
    for (const edit of kept.past) there = forwards(there, edit);
    expect(there).toEqual(arrived);
  },
);

test("an edit that the other window has taken over leaves no step", () => {
  const done = edited("name", START, (d) => void (d.name = "Mine"))!;
  const arrived = after(done[0], (d) => void (d.name = "Theirs"));
  expect(carried(withEdit(EMPTY, done[1]), done[0], arrived)).toEqual(EMPTY);
});
