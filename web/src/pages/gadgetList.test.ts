// What is found in the list of gadgets, and in which order.
import { expect, test } from "vitest";
import type { Schemas } from "../api/client";
import { found, tagsIn, tagsOf } from "./gadgetList";

type Project = Schemas["ProjectOut"];
const gadget = (name: string, runtime_h: number | null, gravest: string, tags: string[] = [], worst = ""): Project =>
  ({
    id: name.length,
    name,
    changed: "",
    tags,
    archived: false,
    variants: [{ id: 1, name: "First", head: { runtime_h, gravest, worst } }],
  }) as unknown as Project;

const ALL = [
  gadget("Owl", 20, "watch", ["shed"], "The lid is thin"),
  gadget("Bat", null, "", ["shed", "loft"]),
  gadget("Carp", 3, "stop", [], "Cells are bare"),
  gadget("Asp", null, "fix"),
];
const names = (words: string, tag: string, order: Parameters<typeof found>[3]) =>
  found(ALL, words, tag, order).map((p) => p.name);

test("every word has to be somewhere: in the name, a tag or the worst finding", () => {
  expect(names("", "", "changed")).toEqual(["Owl", "Bat", "Carp", "Asp"]);
  expect(names("LID owl", "", "changed")).toEqual(["Owl"]);
  expect(names("loft", "", "changed")).toEqual(["Bat"]);
  expect(names("loft owl", "", "changed")).toEqual([]);
  expect(names("", "shed", "changed")).toEqual(["Owl", "Bat"]);
  expect(names("", "she", "changed")).toEqual([]);
});

test("orders put first what is asked for; without end comes last, whichever", () => {
  expect(names("", "", "name")).toEqual(["Asp", "Bat", "Carp", "Owl"]);
  expect(names("", "", "runtime")).toEqual(["Carp", "Owl", "Bat", "Asp"]);
  expect(names("", "", "gravest")).toEqual(["Carp", "Asp", "Owl", "Bat"]);
  expect(found(ALL, "", "", "sideways" as never).map((p) => p.name)).toEqual(["Owl", "Bat", "Carp", "Asp"]);
});

test("tags are words between commas, once each", () => {
  expect(tagsOf(ALL)).toEqual(["loft", "shed"]);
  expect(tagsIn(" shed, for Bo ,, shed")).toEqual(["shed", "for Bo"]);
  expect(tagsIn("x".repeat(40))).toEqual(["x".repeat(30)]);
});
