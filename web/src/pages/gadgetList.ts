// Which gadgets are looked for, and in which order they stand.
import type { Schemas } from "../api/client";

type Project = Schemas["ProjectOut"];
export type Order = "changed" | "name" | "runtime" | "gravest";
export const ORDERS: readonly (readonly [Order, string])[] = [
  ["changed", "Last changed first"],
  ["name", "By name"],
  ["runtime", "Shortest runtime first"],
  ["gravest", "Gravest finding first"],
];
const GRAVITY = ["stop", "fix", "watch", "note", ""];

const runtime = (p: Project) => Math.min(...p.variants.map((v) => v.head?.runtime_h ?? Infinity));
const gravity = (p: Project) => Math.min(...p.variants.map((v) => GRAVITY.indexOf(v.head?.gravest ?? "")));
const sign = (difference: number) => (Number.isNaN(difference) ? 0 : difference); // two that are both without end
const ORDERED: Record<Order, (a: Project, b: Project) => number> = {
  changed: () => 0, // as they come
  name: (a, b) => a.name.localeCompare(b.name),
  runtime: (a, b) => sign(runtime(a) - runtime(b)),
  gravest: (a, b) => sign(gravity(a) - gravity(b)),
};

/** All tags in use, by their letters. */
export const tagsOf = (projects: readonly Project[]): string[] =>
  [...new Set(projects.flatMap((p) => p.tags))].sort((a, b) => a.localeCompare(b));

/** Those that carry the tag and every word somewhere, in order. */
export function found(projects: readonly Project[], words: string, tag: string, order: Order): Project[] {
  const asked = words.toLowerCase().split(/\s+/).filter(Boolean);
  return projects
    .filter((p) => {
      const text = [p.name, ...p.tags, ...p.variants.flatMap((v) => [v.name, v.head?.worst ?? ""])]
        .join(" ")
        .toLowerCase();
      return (!tag || p.tags.includes(tag)) && asked.every((word) => text.includes(word));
    })
    .sort(ORDERED[order] ?? ORDERED.changed);
}

/** The tags in a line of text, once each. */
export const tagsIn = (text: string): string[] => [
  ...new Set(
    text
      .split(",")
      .map((t) => t.trim().slice(0, 30))
      .filter(Boolean),
  ),
];
