// Where a figure comes from, by the fill of a small gauge: the surer, the fuller.
import type { State } from "../../design/types";

type Provenance = State["provenance"];

export const PROVENANCES: readonly [Provenance, string][] = [
  ["measured", "measured"],
  ["datasheet", "from the datasheet"],
  ["typical", "typical"],
  ["guess", "a guess"],
];

const LEVEL: Record<Provenance, number> = { measured: 10, datasheet: 7, typical: 3.5, guess: 0 };

export function ProvenanceMark({ provenance }: { provenance: Provenance }) {
  const level = LEVEL[provenance];
  return (
    <svg viewBox="0 0 8 12" width="8" height="12" className="shrink-0" role="img" aria-label={provenance}>
      <rect x="1" y={11 - level} width="6" height={level} fill="currentColor" />
      <rect x="0.500" y="0.500" width="7" height="11" rx="1.500" fill="none" stroke="currentColor" />
    </svg>
  );
}
