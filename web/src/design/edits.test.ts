// Edits of several places at once, on a demo.
import { expect, test } from "vitest";
import demo from "../../../demo/dusk-ear.json";
import { setChemistry, takeCell } from "./edits";
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
