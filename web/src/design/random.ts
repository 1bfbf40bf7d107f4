// For tests: numbers that a seed decides, and random changes of a document.

/** A row of numbers between 0 and 1 (mulberry32). */
export function numbers(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

type Json = null | boolean | number | string | Json[] | { [key: string]: Json };

/** Changes something somewhere in a document: a value, an item more, an item less, an item elsewhere. */
export function changed(node: Json, next: () => number, depth = 0): void {
  if (node === null || typeof node !== "object") return;
  const keys = Object.keys(node);
  if (!keys.length) return;
  const key = keys[Math.floor(next() * keys.length)]!;
  const inner = (node as Record<string, Json>)[key]!;
  if (Array.isArray(node) && next() < 0.3) {
    const at = Math.floor(next() * node.length);
    if (next() < 0.4) node.splice(at, 1);
    else if (next() < 0.5) node.splice(at, 0, structuredClone(JSON.parse(JSON.stringify(node[at]!)) as Json));
    else node.reverse();
  } else if (inner !== null && typeof inner === "object" && depth < 8 && next() < 0.85) changed(inner, next, depth + 1);
  else if (typeof inner === "number") (node as Record<string, Json>)[key] = inner + 1 + next();
  else if (typeof inner === "string") (node as Record<string, Json>)[key] = `${inner}!`;
  else (node as Record<string, Json>)[key] = [{ made: next() }];
}
