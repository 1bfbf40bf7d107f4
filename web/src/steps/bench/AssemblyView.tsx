// Assembly: the small things that no line of the bill has, and the order of work, ticked off.
import type { Schemas } from "../../api/client";
import { actions, useOpenDesign } from "../../design/store";
import { Button, Section } from "../../ui/controls";
import { show } from "../../ui/format";
import { StatusMark } from "../../design/fields/status";
import { type As, Grouped, type Reading, Ticked } from "./readings";

type Sheet = Schemas["Assembly"];
type Step = Schemas["AssemblyStep"];

const GROUPS: Record<Step["group"], string> = {
  ready: "Before the iron gets hot",
  case: "The case",
  board: "Solder, the lowest first",
  delicate: "Then what heat spoils",
  wires: "Wires",
  inside: "Into the case",
  cell: "The cells, last",
  close: "Close it",
};

export function AssemblyView({ sheet, own, as }: { sheet: Sheet; own: Map<string, Reading>; as: As }) {
  return (
    <div className="space-y-4">
      {!!sheet.small.parts.length && <Forgotten small={sheet.small} />}
      <Grouped names={GROUPS} steps={sheet.steps}>
        {(s) => (
          <li
            key={`${as.prototype} ${s.key}`}
            className="flex break-inside-avoid flex-wrap items-start justify-between gap-x-4 gap-y-2 py-3 first:pt-1 last:pb-1"
          >
            <div className="min-w-0 flex-1 basis-72">
              <h3 className="font-semibold">{s.title}</h3>
              <p className="text-soft text-sm">{s.how}</p>
              {!!s.needs.length && <p className="mt-1 text-sm">On the table: {s.needs.join(", ")}</p>}
              {s.caution && <p className="text-fail mt-1 text-sm font-medium">{s.caution}</p>}
            </div>
            <Ticked step={s} reading={own.get(s.key)} as={as} />
          </li>
        )}
      </Grouped>
    </div>
  );
}

/** From breadboard to board. */
function Forgotten({ small }: { small: Sheet["small"] }) {
  const { brief } = useOpenDesign();
  const { way } = small;
  return (
    <Section
      title="What gets forgotten between breadboard and board"
      aside={way && <Button onClick={() => actions.applyRemedy(way.label, way.patch)}>{way.label}</Button>}
    >
      <ul className="divide-line/60 divide-y">
        {small.parts.map((p) => (
          <li key={p.key} className="flex flex-wrap items-baseline gap-x-3 py-1.5">
            <span className="flex items-center gap-1.5">
              <StatusMark status={p.missing === 0 ? "pass" : "watch"} size={11} />
              <span className="font-medium tabular-nums">
                {p.count} × {p.name}
              </span>
            </span>
            <span className="text-soft min-w-0 flex-1 basis-56 text-sm">{p.why}</span>
            <span className="text-soft text-sm">
              {p.missing === 0
                ? "on the bill"
                : `${p.missing < p.count ? `${p.missing} ` : ""}not on the bill, about ${show(p.cost, brief.currency ?? "EUR")}`}
            </span>
          </li>
        ))}
      </ul>
    </Section>
  );
}
