// Where a figure comes from, by the fill of a drop: the surer, the fuller.
import type { State } from "../../design/types";

type Provenance = State["provenance"];

export const PROVENANCES: readonly [Provenance, string][] = [
  ["measured", "measured"],
  ["datasheet", "from the datasheet"],
  ["typical", "typical"],
  ["guess", "a guess"],
];

const LEVEL: Record<Provenance, number> = { measured: 12, datasheet: 8, typical: 4, guess: 0 };

export function ProvenanceMark({ provenance }: { provenance: Provenance }) {
  const level = LEVEL[provenance];
  return (
    <svg viewBox="0 0 12 14" width="9" height="11" className="shrink-0" role="img" aria-label={provenance}>
      <clipPath id={`drop-${provenance}`}>
        <rect x="0" y={13 - level} width="12" height={level} />
      </clipPath>
      <path d="M6 1c2 3.500 5 5 5 8a5 4.500 0 0 1-10 0c0-3 3-4.500 5-8Z" fill="none" stroke="currentColor" />
      <path
        d="M6 1c2 3.500 5 5 5 8a5 4.500 0 0 1-10 0c0-3 3-4.500 5-8Z"
        fill="currentColor"
        clipPath={`url(#drop-${provenance})`}
      />
    </svg>
  );
}
