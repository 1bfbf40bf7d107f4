// Figures are written as the core writes them: both keep to one table.
import { readFileSync } from "node:fs";
import { expect, test } from "vitest";
import { show } from "./format";

const TABLE = JSON.parse(readFileSync("../core/tests/data/shown.json", "utf8")) as [number, string, string][];

test.each(TABLE)("%f %s is shown as %s", (value, unit, text) => {
  expect(show(value, unit).replaceAll("\u00a0", " ").replaceAll("\u2212", "-")).toBe(text);
});
