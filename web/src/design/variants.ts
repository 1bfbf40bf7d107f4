// Names of variants.

/** A name that no variant has yet: as wanted, or with a number behind it. */
export function freeName(wanted: string, taken: readonly { name: string }[]): string {
  const base = wanted.slice(0, 100);
  const names = new Set(taken.map((v) => v.name));
  let name = base;
  for (let i = 2; names.has(name); i++) name = `${base} (${i})`;
  return name;
}
