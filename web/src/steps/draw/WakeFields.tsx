// What can wake a controller out of each of its states.
import type { Schemas } from "../../api/client";
import type { Part } from "../../design/types";
import { Button } from "../../ui/controls";
import { QuantityField } from "../../design/fields/fields";
import type { ChangePart } from "./change";

export type WakeBy = Schemas["WakeSource"]["by"][number];

export const WAKES: readonly [WakeBy, string][] = [
  ["timer", "timer"],
  ["pin", "pin"],
  ["touch", "touch"],
  ["serial", "serial"],
  ["radio", "radio"],
];

export function WakeFields({ part, change }: { part: Part; change: ChangePart }) {
  const of = (state: string) => part.wakes.find((w) => w.state === state);
  const set = (state: string, work: (w: Schemas["WakeSource"]) => void) =>
    change(`Wakes from ${state}`, (x) => {
      const found = x.wakes.find((w) => w.state === state) ?? { state, by: [], pins: 0 };
      if (!x.wakes.includes(found)) x.wakes.push(found);
      const target = x.wakes.find((w) => w.state === state)!;
      work(target);
      if (target.by.length === 0) x.wakes = x.wakes.filter((w) => w.state !== state);
    });
  return (
    <details className="border-line rounded-md border p-2 text-sm">
      <summary className="cursor-pointer">What wakes it out of its states</summary>
      {part.states.map(({ name }) => {
        const wake = of(name);
        return (
          <div key={name} className="mt-2" role="group" aria-label={`What wakes it from ${name}`}>
            <p className="text-soft">{name}</p>
            <div className="mt-0.5 flex flex-wrap items-center gap-1">
              {WAKES.map(([by, label]) => {
                const on = wake?.by.includes(by) ?? false;
                return (
                  <Button
                    key={by}
                    kind={on ? "strong" : "plain"}
                    aria-pressed={on}
                    onClick={() => set(name, (w) => (w.by = on ? w.by.filter((b) => b !== by) : [...w.by, by]))}
                  >
                    {label}
                  </Button>
                );
              })}
              {wake?.by.includes("pin") && (
                <span className="w-16">
                  <QuantityField
                    bare
                    label={`Pins that wake it from ${name}`}
                    value={wake.pins}
                    dimension="count"
                    onCommit={(v) => set(name, (w) => (w.pins = v ?? 0))}
                  />
                </span>
              )}
            </div>
          </div>
        );
      })}
    </details>
  );
}
