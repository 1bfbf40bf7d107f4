// What was read or done on a prototype: kept, taken away, ticked off.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Check as Tick } from "lucide-react";
import type { ReactNode } from "react";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import { actions, useDesign, useMayChange } from "../../design/store";
import { Button, Section } from "../../ui/controls";
import { Problems } from "../../ui/problems";

export type Reading = Schemas["ReadingOut"];
/** of what and with what it is read */
export type As = { prototype: number; instrument: string; accuracy: number | null };

/** How a judged reading is coloured. */
export const TONES = {
  right: "text-pass",
  high: "text-fail",
  low: "text-fail",
  nothing: "text-fail",
  reversed: "text-fail",
} as const;

export function useReading(
  step: string,
  reading: Reading | undefined,
  as: As,
  onKept: (typed: string | null) => void = () => undefined,
) {
  const variant = useDesign((s) => s.variant)!;
  const queries = useQueryClient();
  const again = () => queries.invalidateQueries({ queryKey: ["bringup", variant.id] });
  const keep = useMutation<void, ProblemError, string | null>({
    mutationFn: async (typed) => {
      await actions.saveNow();
      await ask(
        client.POST("/api/variants/{variant_id}/readings", {
          params: { path: { variant_id: variant.id } },
          body: { step, text: typed, ...as },
        }),
      );
      await again();
    },
    onSuccess: (_, typed) => onKept(typed),
  });
  const remove = useMutation<void, ProblemError>({
    mutationFn: async () => {
      const path = { variant_id: variant.id, reading_id: reading!.id };
      await ask(client.DELETE("/api/variants/{variant_id}/readings/{reading_id}", { params: { path } }));
      await again();
    },
  });
  return { keep, remove };
}

/** A step that is done or not. */
export function Ticked({
  step,
  reading,
  as,
}: {
  step: { key: string; title: string };
  reading: Reading | undefined;
  as: As;
}) {
  const may = useMayChange();
  const { keep, remove } = useReading(step.key, reading, as);
  return (
    <div className="flex items-center gap-1">
      <Button
        disabled={!may}
        kind={reading ? "strong" : "plain"}
        aria-pressed={!!reading}
        busy={keep.isPending || remove.isPending}
        aria-label={`Done: ${step.title}`}
        onClick={() => (reading ? remove.mutate() : keep.mutate(null))}
      >
        {reading && <Tick size={15} aria-hidden />} Done
      </Button>
      <Problems error={keep.error ?? remove.error} />
    </div>
  );
}

/** Steps under their groups' names, in the order of the names. */
export function Grouped<S extends { group: string }>({
  names,
  steps,
  children,
}: {
  names: Record<S["group"], string>;
  steps: readonly S[];
  children: (step: S) => ReactNode;
}) {
  return (Object.keys(names) as S["group"][])
    .filter((group) => steps.some((s) => s.group === group))
    .map((group) => (
      <Section key={group} title={names[group]}>
        <ol className="divide-line/60 divide-y">{steps.filter((s) => s.group === group).map(children)}</ol>
      </Section>
    ));
}
