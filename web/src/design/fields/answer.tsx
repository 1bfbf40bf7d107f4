// An answer that is asked for beside the evaluation: kept on screen while the next one is on its way.
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState, type ReactNode } from "react";
import type { ProblemError } from "../../api/client";
import { useOpenDesign } from "../store";
import type { Design } from "../types";
import { Problems } from "../../ui/problems";

export type Asking<T> = { data: T | undefined; error: ProblemError | null; fresh: boolean; again: () => void };

const SETTLED_MS = 250;

/** A document once it has stood still for a moment: quick edits in a row are asked about once. */
function useSettled(design: Design): Design {
  const [settled, setSettled] = useState(design);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(design), SETTLED_MS);
    return () => clearTimeout(timer);
  }, [design]);
  return settled;
}

/** What the core answers to a question about the open document, once it is to be asked. What is no longer wanted is given up. */
export function useAnswer<T>(
  name: readonly unknown[],
  question: (design: Design, signal: AbortSignal) => Promise<T>,
  enabled = true,
): Asking<T> {
  const open = useOpenDesign();
  const design = useSettled(open);
  const query = useQuery<T, ProblemError>({
    queryKey: [...name, design],
    queryFn: ({ signal }) => question(design, signal),
    enabled,
    staleTime: Infinity,
    gcTime: 60_000,
    placeholderData: keepPreviousData,
  });
  return {
    data: query.data,
    error: query.error,
    fresh: !query.isPlaceholderData && design === open,
    again: () => void query.refetch(),
  };
}

/** The answer, or what there is to say while there is none. An old one is paler and cannot be used until the new one is
 * there: its edits were made for another document. */
export function Answered<T>({
  asking,
  waiting,
  nothing,
  room = "",
  children,
}: {
  asking: Asking<T>;
  waiting: string;
  nothing: string;
  /** A class with the height that the answer usually takes, so that nothing jumps when it comes. */
  room?: string;
  children: (answer: NonNullable<T>) => ReactNode;
}) {
  const { data, error, fresh, again } = asking;
  if (error) return <Problems error={error} again={again} />;
  if (data === undefined) return <p className={`text-soft ${room}`}>{waiting}</p>;
  if (data === null) return <p className="text-soft">{nothing}</p>;
  return (
    <div
      aria-busy={!fresh || undefined}
      inert={!fresh}
      className={fresh ? "" : "opacity-60 transition-opacity delay-200"}
    >
      {children(data)}
    </div>
  );
}
