// Recordings of a variant, of a current or of a run-down: brought, chosen among, taken away.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { useId, useRef, useState, type ReactNode } from "react";
import { ask, client, ProblemError, type Schemas } from "../../api/client";
import { done } from "../../api/jobs";
import { upload } from "../../api/upload";
import { useDesign, useMayChange } from "../../design/store";
import { Button, IconButton, INPUT } from "../../ui/controls";
import { Problems } from "../../ui/problems";

export type Trace = Schemas["TraceOut"];
type Read = Schemas["TraceRead"];

export function useRecordings(kind: Trace["kind"]) {
  const variant = useDesign((s) => s.variant)!;
  const path = { variant_id: variant.id };
  return useQuery<Trace[], ProblemError, Trace[]>({
    queryKey: ["traces", variant.id],
    queryFn: ({ signal }) => ask(client.GET("/api/variants/{variant_id}/traces", { params: { path }, signal })),
    select: (all) => all.filter((t) => t.kind === kind),
  });
}

export function ChooseRecording({
  of,
  chosen,
  onChoose,
}: {
  of: Trace[] | undefined;
  chosen: Trace | undefined;
  onChoose: (trace: number) => void;
}) {
  if (!of?.length) return null;
  return (
    <div role="group" aria-label="Recordings" className="flex flex-wrap gap-1.5">
      {of.map((t) => (
        <Button
          key={t.id}
          kind={t.id === chosen?.id ? "strong" : "plain"}
          aria-pressed={t.id === chosen?.id}
          onClick={() => onChoose(t.id)}
        >
          {t.name}
        </Button>
      ))}
    </div>
  );
}

export function TakeAway({ trace }: { trace: Trace }) {
  const may = useMayChange();
  const variant = useDesign((s) => s.variant)!;
  const queries = useQueryClient();
  const path = { variant_id: variant.id, trace_id: trace.id };
  const remove = useMutation<void, ProblemError>({
    mutationFn: async () => {
      await ask(client.DELETE("/api/variants/{variant_id}/traces/{trace_id}", { params: { path } }));
      await queries.invalidateQueries({ queryKey: ["traces", variant.id] });
    },
  });
  if (!may) return null;
  return (
    <>
      <Problems error={remove.error} />
      <IconButton label={`Take the recording away: ${trace.name}`} onClick={() => remove.mutate()}>
        <Trash2 size={15} aria-hidden />
      </IconButton>
    </>
  );
}

/** A file brought, read by the server, and asked about where it does not say a unit. */
export function BringRecording({
  kind,
  label,
  onRead,
  children,
}: {
  kind: Trace["kind"];
  label: string;
  onRead: (trace: number) => void;
  children: ReactNode;
}) {
  const variant = useDesign((s) => s.variant)!;
  const queries = useQueryClient();
  const id = useId();
  const [share, setShare] = useState(0);
  const ending = useRef(new AbortController());
  const file = useRef<File | null>(null);
  const units = useRef<Record<string, string>>({});
  const read = useMutation<Read>({
    mutationFn: async () => {
      const { signal } = ending.current;
      setShare(0);
      const digest = await upload(file.current!, (s) => setShare(s / 2), signal);
      const body = { digest, variant: variant.id, units: units.current, kind };
      const job = await done(ask(client.POST("/api/jobs/trace", { body })), (s) => setShare(0.5 + s / 2), signal);
      if (!job.trace) throw new Error(job.problem ? `The file can't be used: ${job.problem}` : "It was given up.");
      return job.trace;
    },
    onSuccess: async (found) => {
      if (found.trace == null) return;
      await queries.invalidateQueries({ queryKey: ["traces", variant.id] });
      onRead(found.trace);
    },
  });
  const bring = (next: File) => {
    ending.current = new AbortController();
    file.current = next;
    units.current = {};
    read.mutate();
  };
  const may = useMayChange();
  const problem = read.error && read.error.name !== "AbortError" ? read.error : null;
  if (!may) return null;
  return (
    <div
      className="rounded-card border-line bg-sheet border px-4 py-3 print:hidden"
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        e.stopPropagation();
        const dropped = e.dataTransfer.files[0];
        if (dropped && !read.isPending) bring(dropped);
      }}
    >
      <label htmlFor={id} className="block font-medium">
        {label}
      </label>
      <p className="text-soft mb-2 text-sm">{children}</p>
      <input
        id={id}
        type="file"
        accept=".csv,.txt,.tsv,.gz"
        className={INPUT}
        disabled={read.isPending}
        onChange={(e) => {
          const next = e.target.files?.[0];
          e.target.value = "";
          if (next) bring(next);
        }}
      />
      {read.isPending && (
        <div className="mt-2 flex items-center gap-2 text-sm" role="status">
          <progress className="grow" value={share} aria-label="Reading the recording" />
          <Button kind="quiet" onClick={() => ending.current.abort()}>
            Give up
          </Button>
        </div>
      )}
      {read.data?.asked && !read.isPending && (
        <fieldset className="mt-2 text-sm">
          <legend className="text-watch">The file does not say what its {read.data.asked} is in. It is in</legend>
          <div className="mt-1 flex flex-wrap gap-1.5">
            {read.data.choices.map((unit) => (
              <Button
                key={unit}
                onClick={() => {
                  units.current = { ...units.current, [read.data.asked!]: unit };
                  read.mutate();
                }}
              >
                {unit}
              </Button>
            ))}
          </div>
        </fieldset>
      )}
      {problem &&
        (problem instanceof ProblemError ? (
          <Problems error={problem} />
        ) : (
          <p role="alert" className="text-fail mt-2 text-sm">
            {problem instanceof TypeError ? "The server does not answer; try again." : problem.message}
          </p>
        ))}
    </div>
  );
}
