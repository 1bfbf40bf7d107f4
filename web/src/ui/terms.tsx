// The field's words, explained where they stand: a small mark behind a label, by pointer, touch, or F1 in its field.
import { Popover } from "radix-ui";
import { createContext, useContext, useMemo, type ReactNode } from "react";
import { Link } from "react-router";

export type Term = { key: string; name: string; text: string; step: string; labels: string[] };

const Terms = createContext<ReadonlyMap<string, Term>>(new Map());

export function TermsProvider({ terms, children }: { terms: readonly Term[]; children: ReactNode }) {
  const byLabel = useMemo(() => new Map(terms.flatMap((t) => t.labels.map((label) => [label, t] as const))), [terms]);
  return <Terms value={byLabel}>{children}</Terms>;
}

/** The term that a label names; none for one that needs no explanation. */
export const useTermOf = (label: string): Term | undefined => useContext(Terms).get(label);

export function Explain({
  term,
  open,
  onOpenChange,
}: {
  term: Term;
  open?: boolean;
  onOpenChange?: (open: boolean) => void;
}) {
  return (
    <Popover.Root open={open} onOpenChange={onOpenChange}>
      <Popover.Trigger
        tabIndex={-1}
        title={term.name}
        className="text-soft hover:text-ink hover:bg-well -my-1 inline-flex size-6 shrink-0 items-center justify-center rounded-full text-xs"
      >
        <span aria-hidden>?</span>
        <span className="sr-only">Explain</span>
      </Popover.Trigger>
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
          <Link to={`/words#${term.key}`} className="text-soft mt-2 inline-block text-sm underline underline-offset-2">
            All words
          </Link>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
