// Edits of several places at once, on a demo.
import { expect, test } from "vitest";
import demo from "../../../demo/dusk-ear.json";
import { setChemistry, setEntry, takeCell } from "./edits";
import type { Design } from "./types";

const gadget = () => structuredClone(demo) as unknown as Design;

test("a protection circuit goes with its cells", () => {
  const draft = gadget();
  draft.battery.protection = { ...draft.battery.protection!, cut_v_per_cell: 2.7 };
  setChemistry(draft, "lithium-ion");
  expect(draft.battery.protection.cut_v_per_cell).toBe(2.7); // what somebody typed stays with the same kind
  setChemistry(draft, "lithium-iron-phosphate");
  expect(draft.battery.protection.cut_v_per_cell).toBe(2);
  setChemistry(draft, "alkaline");
  expect(draft.battery.protection).toBeNull();
  setChemistry(draft, "lithium-ion");
  expect(draft.battery.protection).toBeNull();
});

test("a cell that is taken is a copy, and its pack has its room", () => {
  const draft = gadget();
  const cell = {
    ...draft.battery.cell,
    chemistry: "alkaline" as const,
    form: "cylinder" as const,
    size_mm: [10.5, 10.5, 44.5] as [number, number, number],
  };
  draft.battery.series = 3;
  takeCell(draft, cell);
  expect(draft.battery.cell).toEqual(cell);
  expect(draft.battery.cell).not.toBe(cell);
  expect(draft.battery.body?.size_mm).toEqual([31.5, 10.5, 44.5]);
  expect(draft.battery.protection).toBeNull();
});

test("a state that was typed and is not there yet is made once, for this mode", () => {
  const draft = gadget();
  const part = draft.parts[0]!;
  const states = part.states.length;
  const [first, second] = draft.modes;
  const entry = {
    clear: false,
    adds: true,
    state: "shouts",
    duty: 0.2,
    draw: { behaviour: "current", current_a: { typical: 0.12, min: null, max: null } },
    rest_given: false,
  } as unknown as Parameters<typeof setEntry>[1];
  setEntry(draft, entry, part.id, first!.id);
  setEntry(draft, entry, part.id, second!.id);
  expect(part.states.length).toBe(states + 1);
  expect(part.states.at(-1)).toMatchObject({ name: "shouts", provenance: "guess", draw: entry.draw });
  for (const mode of [first!, second!])
    expect(mode.uses.find((u) => u.part === part.id)).toMatchObject({ state: "shouts", duty: 0.2 });
});
