// Any row of edits can be taken back and done again, step by step.
import { expect, test, vi } from "vitest";
import demo from "../../../demo/dusk-ear.json";
import { backwards, editBetween, edited, EMPTY, forwards, keep, kept, withEdit } from "./history";
import { changed, numbers } from "./random";
import type { Design } from "./types";

const START = demo as unknown as Design;

test.each([1, 2, 3, 4, 5, 6, 7, 8])("random edits go back and forth (seed %i)", (seed) => {
  const next = numbers(seed);
  let history = EMPTY;
  const states = [START];
  for (let i = 0; i < 60; i += 1) {
    const done = edited(`edit ${i}`, states.at(-1)!, (draft) => {
      for (let k = 0; k <= next() * 3; k += 1) changed(draft, next);
    });
    if (!done) continue;
    states.push(done[0]);
    history = withEdit(history, done[1]);
  }
  expect(history.past.length).toBe(states.length - 1);
  // as it is kept in the browser
  const kept = JSON.parse(JSON.stringify(history.past)) as typeof history.past;
  let here = states.at(-1)!;
  for (let i = kept.length - 1; i >= 0; i -= 1) {
    here = backwards(here, kept[i]!);
    expect(here).toEqual(states[i]);
  }
  for (let i = 0; i < kept.length; i += 1) {
    here = forwards(here, kept[i]!);
    expect(here).toEqual(states[i + 1]);
  }
});

test("what changes nothing is no edit", () => {
  expect(edited("same", START, (d) => void (d.name = START.name))).toBeNull();
  expect(edited("equal", START, (d) => void (d.modes[0]!.uses = structuredClone(START.modes[0]!.uses)))).toBeNull();
  expect(edited("other", START, (d) => void (d.name += "!"))).not.toBeNull();
});

test("what is not touched stays the same object", () => {
  const done = edited("name", START, (d) => void (d.modes[0]!.name += "!"))!;
  expect(done[0].parts).toBe(START.parts);
  expect(done[0].modes[1]).toBe(START.modes[1]);
  expect(done[0].modes).not.toBe(START.modes);
});

test("an edit between two documents leads from one to the other and back", () => {
  const next = numbers(42);
  const other = structuredClone(START);
  for (let k = 0; k < 12; k += 1) changed(other, next);
  const edit = editBetween("elsewhere", START, other)!;
  expect(forwards(START, edit)).toEqual(other);
  expect(backwards(other, edit)).toEqual(START);
  expect(editBetween("none", START, structuredClone(START))).toBeNull();
});

test("a history that was kept by an earlier version is left, its unsaved work is not", async () => {
  const stored: Record<string, string> = {};
  const storage = {
    getItem: (k: string) => stored[k] ?? null,
    setItem: (k: string, v: string) => void (stored[k] = v),
    removeItem: (k: string) => void delete stored[k],
  };
  // the names of what is kept are the storage's own properties
  vi.stubGlobal(
    "localStorage",
    new Proxy(stored, { get: (_, k: string) => storage[k as keyof typeof storage] ?? stored[k] }),
  );
  vi.stubGlobal("sessionStorage", storage);
  vi.stubGlobal("navigator", {});
  const upgrade = (older: Design) => Promise.resolve({ ...older, format: START.format, summary: "brought up" });
  expect(await kept(7, 1, START.format, upgrade)).toBeNull(); // this window has its name now
  const old = { label: "x", forward: [{ op: "replace", path: "/name", value: "y" }], backward: [] };
  const unsaved = { design: START, base: START };
  for (const [edits, left] of [
    [[old], 0],
    [[edited("x", START, (d) => void (d.name += "!"))![1]], 1],
  ] as const) {
    keep(7, { revision: 5, format: START.format, history: { past: [...edits] as never, future: [] }, unsaved });
    const found = await kept(7, 5, START.format, upgrade);
    expect(found?.history.past.length).toBe(left);
    expect(found?.unsaved).toEqual(unsaved);
  }
  // work of an older format: brought up where the server answers, else it waits; the way back is gone
  const edit = edited("x", START, (d) => void (d.name += "!"))![1];
  keep(7, { revision: 5, history: { past: [edit], future: [] }, unsaved });
  await expect(kept(7, 5, START.format, () => Promise.reject(new Error("no connection")))).rejects.toThrow();
  const later = await kept(7, 5, START.format, upgrade);
  expect(later?.history.past).toEqual([]);
  expect(later?.unsaved?.design.summary).toBe("brought up");
  expect(later?.unsaved?.base.summary).toBe("brought up");
  vi.unstubAllGlobals();
});
