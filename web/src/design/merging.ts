// Three versions of a document put together, as the core does it (`design/merging.py`): there the places where two people meet
// are told in words and asked about; here the way back is carried over a change that is taken in anyway.

type Json = null | boolean | number | string | Json[] | { [key: string]: Json };
type Item = { [key: string]: Json };
type Side = Json | undefined; // undefined: not there

const KEYS = ["id", "part", "stage", "name"];
const KINDS = ["behaviour", "type"];

/** What leads from `base` to `mine` and what leads from it to `theirs`, both; where both changed the same place, theirs.
 * Items of a list are the same by their id, or by the part or the name that they carry. */
export function together<T>(base: T, mine: T, theirs: T): T {
  return merged(base as Side, mine as Side, theirs as Side) as T;
}

function merged(base: Side, mine: Side, theirs: Side): Side {
  if (equal(mine, base) || equal(mine, theirs)) return theirs;
  if (equal(theirs, base)) return mine;
  if (isItem(base) && isItem(mine) && isItem(theirs) && alike(base, mine, theirs)) {
    const found: Item = {};
    for (const key of new Set([...Object.keys(theirs), ...Object.keys(mine)])) {
      const value = merged(base[key], mine[key], theirs[key]);
      if (value !== undefined) found[key] = value;
    }
    return found;
  }
  if (Array.isArray(base) && Array.isArray(mine) && Array.isArray(theirs)) {
    const key = commonKey(base, mine, theirs);
    if (key) return items(key, base as Item[], mine as Item[], theirs as Item[]);
    const number = base.length;
    if (
      number &&
      mine.length === number &&
      theirs.length === number &&
      [base, mine, theirs].every((l) => l.every(isItem))
    )
      return base.map((item, i) => merged(item, mine[i], theirs[i])!);
  }
  return theirs;
}

function items(key: string, base: Item[], mine: Item[], theirs: Item[]): Json[] {
  const [b, m, t] = [base, mine, theirs].map((list) => new Map(list.map((item) => [item[key] as string, item])));
  const orders = [b, m, t].map((own) => [...own!.keys()].filter((k) => [b, m, t].every((other) => other!.has(k))));
  const movedHere = !equal(orders[0], orders[1]) && equal(orders[0], orders[2]);
  const [first, second] = movedHere ? [m!, t!] : [t!, m!];
  const found = new Map<string, Json>();
  for (const k of new Set([...first.keys(), ...second.keys()])) {
    const value = merged(b!.get(k), m!.get(k), t!.get(k));
    if (value !== undefined) found.set(k, value);
  }
  const order = [...first.keys()].filter((k) => found.has(k));
  let before = -1;
  for (const k of second.keys()) {
    if (!found.has(k)) continue;
    if (!first.has(k)) order.splice(before + 1, 0, k);
    before = order.indexOf(k);
  }
  return order.map((k) => found.get(k)!);
}

const isItem = (value: Side): value is Item => typeof value === "object" && value !== null && !Array.isArray(value);

/** Of one kind: what has another behaviour or type is another thing, and is not mixed with it. */
const alike = (...all: Item[]): boolean => KINDS.every((kind) => new Set(all.map((i) => i[kind])).size === 1);

/** The key that tells the items of all lists apart. */
function commonKey(...lists: Json[][]): string | undefined {
  if (!lists.every((list) => list.every(isItem))) return undefined;
  return KEYS.find((key) =>
    lists.every((list) => {
      const named = list.map((item) => item[key]);
      return named.every((v) => typeof v === "string") && new Set(named).size === named.length;
    }),
  );
}

function equal(a: Side, b: Side): boolean {
  if (a === b) return true;
  if (typeof a !== "object" || typeof b !== "object" || a === null || b === null) return false;
  if (Array.isArray(a) !== Array.isArray(b)) return false;
  const [one, other] = [a as Item, b as Item];
  const keys = Object.keys(one);
  return keys.length === Object.keys(other).length && keys.every((k) => k in other && equal(one[k], other[k]));
}
