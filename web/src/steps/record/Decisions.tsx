// Decisions with their reasons.
import { Plus, Trash2 } from "lucide-react";
import { useDesign, useOpenDesign } from "../../design/store";
import { Button, IconButton, Section } from "../../ui/controls";
import { TextField } from "../../design/fields/fields";

export function Decisions() {
  const { decisions } = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  return (
    <Section
      title="Decisions"
      aside={
        <Button
          onClick={() =>
            edit("Add a decision", (d) =>
              d.decisions.unshift({
                date: new Date().toISOString().slice(0, 10),
                what: "New decision",
                why: "",
              }),
            )
          }
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
          <li key={i} className="grid grid-cols-[1fr_auto] gap-x-2 gap-y-1">
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
            <p className="text-soft col-span-2 text-xs">{decision.date}</p>
          </li>
        ))}
      </ul>
    </Section>
  );
}
