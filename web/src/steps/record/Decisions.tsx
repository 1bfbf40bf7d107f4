// Decisions with their reasons.
import { Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { actions, openDocument, useDesign, useOpenDesign } from "../../design/store";
import type { Design } from "../../design/types";
import { Button, IconButton, Section } from "../../ui/controls";
import { TextField } from "../../design/fields/fields";
import { show } from "../../ui/format";

type Decision = Design["decisions"][number];

/** A decision on the gadget as it is: it is saved first, so that there is a revision to name. */
async function decide(edit: typeof actions.edit) {
  await actions.saveNow();
  const { revision, save } = openDocument();
  const on: Decision["on"] =
    revision && save.is === "saved"
      ? {
          revision: revision.number,
          runtime_h: revision.runtime_h,
          mass_g: revision.mass_g,
          cost: revision.cost,
          findings: revision.findings,
        }
      : null;
  edit("Add a decision", (d) =>
    d.decisions.unshift({
      id: `decision-${crypto.randomUUID().slice(0, 8)}`,
      date: new Date().toISOString().slice(0, 10),
      what: "New decision",
      why: "",
      on,
    }),
  );
}

export function Decisions() {
  const { decisions } = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const [deciding, setDeciding] = useState(false);
  return (
    <Section
      title="Decisions"
      aside={
        <Button
          busy={deciding}
          onClick={() => {
            setDeciding(true);
            void decide(edit).finally(() => setDeciding(false));
          }}
        >
          <Plus size={15} aria-hidden /> Decision
        </Button>
      }
    >
      {decisions.length === 0 && (
        <p className="text-soft">What was decided, and why, so that nobody has to guess later.</p>
      )}
      <ul className="space-y-3">
        {decisions.map((decision, i) => (
          <li key={decision.id ?? i} className="grid grid-cols-[1fr_auto] gap-x-2 gap-y-1 print:block">
            <TextField
              bare
              label={`Decision ${i + 1}`}
              value={decision.what}
              required
              onCommit={(v) => edit("Decision", (d) => (d.decisions[i]!.what = v))}
            />
            <IconButton
              label={`Remove decision ${i + 1}`}
              onClick={() => edit("Remove a decision", (d) => d.decisions.splice(i, 1))}
            >
              <Trash2 size={15} />
            </IconButton>
            <TextField
              bare
              label={`Why, decision ${i + 1}`}
              value={decision.why}
              lines={2}
              max={4000}
              onCommit={(v) => edit("Reason", (d) => (d.decisions[i]!.why = v))}
            />
            <p className="text-soft col-span-2 text-xs">
              {decision.date}
              {decision.on && <DecidedOn on={decision.on} />}
            </p>
          </li>
        ))}
      </ul>
    </Section>
  );
}

/** "on revision 12: 5.98 days, 89.4 g, 30.80 EUR, 9 findings" */
function DecidedOn({ on }: { on: NonNullable<Decision["on"]> }) {
  const { brief } = useOpenDesign();
  const figures = [
    on.runtime_h !== null && show(on.runtime_h, "h"),
    on.mass_g !== null && show(on.mass_g, "g"),
    on.cost !== null && show(on.cost, brief.currency),
    on.findings !== null && (on.findings === 1 ? "1 finding" : `${on.findings} findings`),
  ].filter(Boolean);
  return (
    <>
      , on revision {on.revision}: {figures.join(", ")}
    </>
  );
}
