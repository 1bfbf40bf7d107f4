// An answer that is asked for beside the evaluation: kept on screen while the next one is on its way.
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { ProblemError } from "../api/client";
import { useOpenDesign } from "../design/store";
import type { Design } from "../design/types";
import { Problems } from "../pages/NewGadget";

type Asking<T> = { data: T | undefined; error: ProblemError | null; fresh: boolean };

/** What the core answers to a question about the open document. */
export function useAnswer<T>(name: readonly unknown[], question: (design: Design) => Promise<T>): Asking<T> {
  const design = useOpenDesign();
  const query = useQuery<T, ProblemError>({
    queryKey: [...name, design],
    queryFn: () => question(design),
    staleTime: Infinity,
    gcTime: 60_000,
    placeholderData: keepPreviousData,
  });
  return { data: query.data, error: query.error, fresh: !query.isPlaceholderData };
}

/** The answer, or what there is to say while there is none. An old one is shown paler until the new one is there. */
export function Answered<T>({
  asking,
  waiting,
  nothing,
  children,
}: {
  asking: Asking<T>;
  waiting: string;
  nothing: string;
  children: (answer: NonNullable<T>) => ReactNode;
}) {
  const { data, error, fresh } = asking;
  if (error) return <Problems error={error} />;
  if (data === undefined) return <p className="text-soft">{waiting}</p>;
  if (data === null) return <p className="text-soft">{nothing}</p>;
  return (
    <div aria-busy={!fresh || undefined} className={fresh ? "" : "opacity-60 transition-opacity delay-200"}>
      {children(data as NonNullable<T>)}
    </div>
  );
}
