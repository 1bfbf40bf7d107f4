// Beside the grid: the selected cell and its part, every figure of it.
import { removeState, renameState, setUse } from "../../design/edits";
import { useDesign, useOpenDesign } from "../../design/store";
import type { Part, State } from "../../design/types";
import { Button, Choice } from "../../ui/controls";
import { QuantityField } from "../../design/fields/fields";
import { BurstEditor } from "./BurstEditor";
import { PartFields } from "./PartFields";
import { StateFields } from "./StateFields";

export function CellDetails({ part: partId, mode: modeId }: { part: string; mode: string }) {
  const design = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const p = design.parts.findIndex((x) => x.id === partId);
  const m = design.modes.findIndex((x) => x.id === modeId);
  const part = design.parts[p];
  const mode = design.modes[m];
  if (!part || !mode) return null;
  const u = mode.uses.findIndex((x) => x.part === partId);
  const use = mode.uses[u];
  const states = part.states.map((s) => [s.name, s.name] as const);
  const change = (label: string, work: (draft: Part) => void) =>
    edit(label, (d) => {
      const found = d.parts.find((x) => x.id === partId);
      if (found) work(found);
    });
  return (
    <div className="space-y-5">
      <section aria-label="Cell" className="space-y-2">
        <h2 className="text-lg leading-snug">
          {part.name} <span className="text-soft text-base font-normal">while {mode.name.toLowerCase()}</span>
        </h2>
        <div className="grid grid-cols-2 gap-2">
          <Choice
            label="State"
            value={use && use.burst.length === 0 ? use.state : use ? "(burst)" : "(nothing)"}
            options={[
              ["(nothing)", "draws nothing"],
              ...(use?.burst.length ? ([["(burst)", "a burst"]] as const) : []),
              ...states,
            ]}
            onChange={(state) =>
              edit(`${part.name}: ${state}`, (d) =>
                setUse(
                  d,
                  modeId,
                  partId,
                  state === "(nothing)" ? null : state === "(burst)" ? {} : { state, burst: [], period_s: null },
                ),
              )
            }
          />
          {use && use.burst.length === 0 && (
            <QuantityField
              label="Share of the mode"
              value={use.duty}
              dimension="share"
              path={`/modes/${m}/uses/${u}/duty`}
              onCommit={(duty) => edit("Duty", (d) => setUse(d, modeId, partId, { duty: duty ?? 1 }))}
            />
          )}
        </div>
        {use && (use.duty < 1 || use.burst.length > 0) && (
          <Choice
            label="Else"
            value={use.rest ?? "(nothing)"}
            options={[["(nothing)", "draws nothing"], ...states]}
            onChange={(rest) =>
              edit("State in between", (d) => setUse(d, modeId, partId, { rest: rest === "(nothing)" ? null : rest }))
            }
          />
        )}
        {use && <BurstEditor part={part} mode={modeId} use={use} path={`/modes/${m}/uses/${u}`} />}
      </section>

      <section aria-label="States" className="space-y-3">
        <div className="flex items-center justify-between">
          <h3 className="text-base">Its states</h3>
          <Button
            kind="quiet"
            onClick={() =>
              change("Add a state", (x) =>
                x.states.push({
                  name: nextName(x.states, "new state"),
                  draw: { behaviour: "current", current_a: { typical: 0.001, min: null, max: null } },
                  provenance: "guess",
                  source: "",
                }),
              )
            }
          >
            Add a state
          </Button>
        </div>
        {part.states.map((state, i) => (
          <StateFields
            key={state.name}
            state={state}
            path={`/parts/${p}/states/${i}`}
            removable={part.states.length > 1 && !isUsed(design, partId, state.name)}
            rename={(to) => edit("Rename a state", (d) => renameState(d, partId, state.name, to))}
            change={(label, work) => change(label, (x) => x.states[i] && work(x.states[i]))}
            remove={() => change("Remove a state", (x) => removeState(x, state.name))}
          />
        ))}
      </section>

      <PartFields part={part} index={p} change={change} />
    </div>
  );
}

const nextName = (states: State[], wanted: string) => {
  let name = wanted;
  for (let n = 2; states.some((s) => s.name === name); n += 1) name = `${wanted} ${n}`;
  return name;
};

const isUsed = (design: ReturnType<typeof useOpenDesign>, part: string, state: string) =>
  design.modes.some((m) =>
    m.uses.some(
      (u) => u.part === part && (u.state === state || u.rest === state || u.burst.some((b) => b.state === state)),
    ),
  );
