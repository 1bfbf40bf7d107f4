// The field's words, explained where they stand: a small mark behind a label, by pointer, touch, or F1 in its field.
import { Popover } from "radix-ui";
import { createContext, Fragment, useContext, useEffect, useMemo, useState, type ReactNode } from "react";
import { Link } from "react-router";

export type Drawing = { lines: { kind: string; points: string }[]; words: { x: number; y: number; text: string }[] };
export type Term = {
  key: string;
  name: string;
  text: string;
  step: string;
  labels: string[];
  drawing?: Drawing | null;
};

const STROKES: Record<string, string> = { ember: "var(--ember)", soft: "var(--soft)", dashed: "var(--soft)" };

/** The small drawing of a term. Its text says the same, so nobody who cannot see it misses anything. */
export function TermDrawing({ drawing }: { drawing: Drawing }) {
  return (
    <svg viewBox="0 0 200 80" className="mt-2 w-full max-w-72" aria-hidden>
      {drawing.lines.map((line, i) => (
        <polyline
          key={i}
          points={line.points}
          fill="none"
          stroke={STROKES[line.kind] ?? "var(--ink)"}
          strokeWidth={line.kind === "ember" ? 2.5 : 1.5}
          strokeDasharray={line.kind === "dashed" ? "4 3" : undefined}
          strokeLinejoin="round"
          strokeLinecap="round"
        />
      ))}
      {drawing.words.map((w) => (
        <text key={w.text} x={w.x} y={w.y} fontSize="9" fill="var(--soft)">
          {w.text}
        </text>
      ))}
    </svg>
  );
}

type Known = {
  byLabel: ReadonlyMap<string, Term>;
  byKey: ReadonlyMap<string, Term>;
  asked: string;
  ask: (field: string) => void;
};
const Terms = createContext<Known>({ byLabel: new Map(), byKey: new Map(), asked: "", ask: () => undefined });

export function TermsProvider({ terms, children }: { terms: readonly Term[]; children: ReactNode }) {
  const byLabel = useMemo(() => new Map(terms.flatMap((t) => t.labels.map((label) => [label, t] as const))), [terms]);
  const byKey = useMemo(() => new Map(terms.map((t) => [t.key, t] as const)), [terms]);
  const [asked, ask] = useState("");
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const field = document.activeElement;
      const label = (field as HTMLInputElement | null)?.labels?.[0]?.textContent;
      if (e.key !== "F1" || !field || !label || !byLabel.has(label)) return;
      e.preventDefault();
      ask(field.id);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [byLabel]);
  const known = useMemo(() => ({ byLabel, byKey, asked, ask }), [byLabel, byKey, asked]);
  return <Terms value={known}>{children}</Terms>;
}

/** The mark behind a label that names a term, and what it means; nothing behind one that needs no explanation. `field` is the id of what the label
 * belongs to. */
export function Explain({ label, field }: { label: string; field: string }) {
  const { byLabel, asked, ask } = useContext(Terms);
  const term = byLabel.get(label);
  if (!term) return null;
  return (
    <Popover.Root open={asked === field} onOpenChange={(open) => ask(open ? field : "")}>
      <Popover.Trigger
        tabIndex={-1}
        title={term.name}
        className="text-soft hover:text-ink hover:bg-well -my-1 inline-flex size-6 shrink-0 items-center justify-center rounded-full text-xs print:hidden"
      >
        <span aria-hidden>?</span>
        <span className="sr-only">Explain</span>
      </Popover.Trigger>
      <Meaning term={term} />
    </Popover.Root>
  );
}

/** What a term means, in the window that opens beside it. */
function Meaning({ term }: { term: Term }) {
  return (
    <Popover.Portal>
      <Popover.Content
        side="top"
        sideOffset={4}
        collisionPadding={12}
        aria-label={term.name}
        className="rounded-card border-line bg-sheet z-50 max-w-[min(22rem,calc(100vw-1.5rem))] border p-4 shadow-lg"
      >
        <p className="font-display text-lg">{term.name}</p>
        <p className="mt-1 text-[0.9375rem]">{term.text}</p>
        {term.drawing && <TermDrawing drawing={term.drawing} />}
        <Link to={`/words#${term.key}`} className="text-soft mt-2 inline-block text-sm underline underline-offset-2">
          All words
        </Link>
      </Popover.Content>
    </Popover.Portal>
  );
}

/** "Cut-off" as "cut-off"; "P10 to P90" stays as it is. */
const inSentence = (name: string) => (/^[A-Z][a-z]/.test(name) ? name[0]!.toLowerCase() + name.slice(1) : name);

/** The words of a picture, each opening what it means: a drawing has no labels that could carry the mark. */
export function Words({ of, field }: { of: readonly string[]; field: string }) {
  const { byKey, asked, ask } = useContext(Terms);
  const known = of.flatMap((key) => byKey.get(key) ?? []);
  if (!known.length) return null;
  return (
    <p className="text-soft mt-1 text-xs print:hidden">
      What it shows:{" "}
      {known.map((term, i) => {
        const id = `${field} ${term.key}`;
        return (
          <Fragment key={term.key}>
            {i > 0 && " · "}
            <Popover.Root open={asked === id} onOpenChange={(open) => ask(open ? id : "")}>
              <Popover.Trigger className="hover:text-ink min-h-6 underline decoration-dotted underline-offset-2">
                {inSentence(term.name)}
              </Popover.Trigger>
              <Meaning term={term} />
            </Popover.Root>
          </Fragment>
        );
      })}
    </p>
  );
}
