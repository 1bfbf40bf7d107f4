// A piece of a recording between two cursors: what flowed in it, and which mode it was.
import { useQuery } from "@tanstack/react-query";
import { useState, type Dispatch, type SetStateAction } from "react";
import { ask, client, ProblemError, type Schemas } from "../../api/client";
import { useDesign, useMayChange, useOpenDesign } from "../../design/store";
import { QuantityField } from "../../design/fields/fields";
import { Button, Choice } from "../../ui/controls";
import { show } from "../../ui/format";
import { Problems } from "../../ui/problems";
import { useAssign } from "./assign";
import { Tone, type Window } from "./TracePicture";

type Trace = Schemas["TraceOut"];
type Assigned = Schemas["Assigned"];

const NONE = "";

export function PickedPiece({
  trace,
  volts,
  picked,
  setPicked,
}: {
  trace: Trace;
  volts: number;
  picked: Window;
  setPicked: Dispatch<SetStateAction<Window | null>>;
}) {
  const variant = useDesign((s) => s.variant)!;
  const { modes } = useOpenDesign();
  const [mode, setMode] = useState(modes[0]?.id ?? NONE);
  const may = useMayChange();
  const assign = useAssign(trace);
  const measured = useQuery<Schemas["TraceWindow"], ProblemError>({
    queryKey: ["trace-window", trace.id, picked.begin, picked.end, volts],
    queryFn: ({ signal }) =>
      ask(
        client.GET("/api/variants/{variant_id}/traces/{trace_id}/window", {
          params: {
            path: { variant_id: variant.id, trace_id: trace.id },
            query: { begin_s: picked.begin, end_s: picked.end, volts },
          },
          signal,
        }),
      ),
    staleTime: Infinity,
  });
  const found = measured.data;
  return (
    <div className="rounded-card border-line bg-paper/60 mt-2 border px-3 py-2.5">
      <div className="grid grid-cols-2 gap-x-4 gap-y-2 sm:grid-cols-4">
        <QuantityField
          label="From"
          dimension="time"
          value={picked.begin}
          onCommit={(v) => v !== null && setPicked((p) => p && { ...p, begin: v })}
        />
        <QuantityField
          label="To"
          dimension="time"
          value={picked.end}
          onCommit={(v) => v !== null && setPicked((p) => p && { ...p, end: v })}
        />
        {may && (
          <Choice
            label="It was"
            value={mode}
            options={[...modes.map((m) => [m.id, m.name] as const), [NONE, "none of the modes"] as const]}
            onChange={setMode}
          />
        )}
        <div className="flex items-end gap-1.5">
          {may && (
            <Button
              disabled={assign.isPending || picked.end <= picked.begin}
              onClick={() =>
                assign.mutate([
                  ...trace.assigned,
                  { begin_s: picked.begin, end_s: picked.end, mode: mode === NONE ? null : mode },
                ])
              }
            >
              Say so
            </Button>
          )}
          <Button kind="quiet" onClick={() => setPicked(null)}>
            Close
          </Button>
        </div>
      </div>
      <Problems error={assign.error ?? measured.error} />
      {found && (
        <dl className="mt-2 flex flex-wrap gap-x-6 gap-y-1 text-sm tabular-nums" aria-label="Between them">
          {(
            [
              ["for", found.seconds, "s"],
              ["charge", found.charge_ah, "Ah"],
              ["energy", found.energy_wh, "Wh"],
              ["mean", found.mean_a, "A"],
              ["root mean square", found.rms_a, "A"],
              ["least", found.least_a, "A"],
              ["peak", found.most_a, "A"],
            ] as const
          ).map(([name, value, unit]) => (
            <div key={name} className="flex gap-1.5">
              <dt className="text-soft">{name}</dt>
              <dd className="font-medium">{show(value, unit)}</dd>
            </div>
          ))}
          <div className="text-soft">at {show(found.volts, "V")}</div>
        </dl>
      )}
    </div>
  );
}

/** What was said by hand, each taken back by itself, the last by Undo. */
export function SaidByHand({ trace }: { trace: Trace }) {
  const { modes } = useOpenDesign();
  const may = useMayChange();
  const assign = useAssign(trace);
  const said = trace.assigned;
  if (!said.length) return <Problems error={assign.error} />;
  const without = (i: number) => assign.mutate(said.filter((_, k) => k !== i));
  const index = (one: Assigned) => modes.findIndex((m) => m.id === one.mode);
  return (
    <div className="mt-2 text-sm">
      <div className="flex items-center gap-2">
        <h3 className="text-soft">Said by hand</h3>
        {may && (
          <Button kind="quiet" disabled={assign.isPending} onClick={() => without(said.length - 1)}>
            Undo the last
          </Button>
        )}
      </div>
      <Problems error={assign.error} />
      <ul>
        {said.map((one, i) => {
          const name =
            one.mode == null ? "none of the modes" : (modes[index(one)]?.name ?? `${one.mode} (not there any more)`);
          return (
            <li key={i} className="flex flex-wrap items-center gap-x-2 tabular-nums">
              <Tone mode={index(one) < 0 ? null : index(one)} />
              {show(one.begin_s, "s")} to {show(one.end_s, "s")}: {name}
              {may && (
                <Button
                  kind="quiet"
                  disabled={assign.isPending}
                  aria-label={`Take back: ${show(one.begin_s, "s")} to ${show(one.end_s, "s")}`}
                  onClick={() => without(i)}
                >
                  Take back
                </Button>
              )}
            </li>
          );
        })}
      </ul>
    </div>
  );
}
