// What the making of the case holds: the process's usual figures, or one's own from test pieces, kept for other gadgets.
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import { useCatalogue } from "../../api/queries";
import { KeepMaking } from "../../design/fields/catalogue";
import { QuantityField, TextField } from "../../design/fields/fields";
import { FigureButton } from "../../design/fields/figure";
import { useDesign, useOpenDesign, useShown } from "../../design/store";
import { Button, Choice } from "../../ui/controls";
import { Problems } from "../../ui/problems";

type Own = Schemas["OwnMaking"];
type Key = Exclude<keyof Own, "name">;

const FIELDS: readonly (readonly [Key, string])[] = [
  ["free_mm", "Put in, gap a side"],
  ["sliding_mm", "Slides, gap a side"],
  ["press_mm", "Pressed in, gap a side"],
  ["least_mm", "Least gap a side"],
  ["wall_mm", "Least wall, good"],
  ["least_wall_mm", "Least wall at all"],
  ["strut_mm", "Least strut"],
  ["least_hole_mm", "Least hole"],
  ["hole_mm", "Holes smaller by"],
  ["post_mm", "Posts thicker by"],
];

export function Making() {
  const { enclosure } = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const figures = useShown()?.fit.making ?? [];
  const { making } = enclosure;
  const [open, setOpen] = useState(making !== null);
  return (
    <details open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="text-soft cursor-pointer text-sm">What its making holds</summary>
      <div className="mt-1 space-y-2">
        <Kept />
        {making ? (
          <Figures making={making} />
        ) : (
          <ul className="space-y-0.5 text-sm">
            {figures.map((f) => (
              <li key={f.label} className="flex justify-between gap-2">
                <span className="text-soft">{f.label}</span>
                <FigureButton figure={f} />
              </li>
            ))}
          </ul>
        )}
        {making ? (
          <div className="flex flex-wrap gap-2">
            <KeepMaking making={making} />
            <Button kind="quiet" onClick={() => edit("The usual figures", (d) => (d.enclosure.making = null))}>
              Back to the usual figures
            </Button>
          </div>
        ) : (
          <Begin />
        )}
      </div>
    </details>
  );
}

/** Figures of one's own, to begin with those that hold now. */
function Begin() {
  const design = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const asked = useMutation<Own, ProblemError>({
    mutationFn: () => ask(client.POST("/api/answers/making", { body: design })),
    onSuccess: (own) => edit("Own making", (d) => (d.enclosure.making = own)),
  });
  return (
    <>
      <Button busy={asked.isPending} onClick={() => asked.mutate()}>
        My machine differs
      </Button>
      <Problems error={asked.error} />
    </>
  );
}

/** What was kept from other gadgets. */
function Kept() {
  const edit = useDesign((s) => s.edit);
  const { making } = useOpenDesign().enclosure;
  const kept = (useCatalogue("making", "").data ?? []).flatMap(({ entry }) => (entry.making ? [entry.making] : []));
  if (!kept.length) return null;
  const now = kept.find((m) => m.name === making?.name);
  return (
    <Choice
      label="Made as"
      value={now?.name ?? ""}
      options={[
        ["", making ? "set here" : "usual for the process"] as const,
        ...kept.map((m) => [m.name, m.name] as const),
      ]}
      onChange={(name) => {
        const found = kept.find((m) => m.name === name);
        if (found) edit(`Made as ${name}`, (d) => (d.enclosure.making = { ...found }));
      }}
    />
  );
}

function Figures({ making }: { making: Own }) {
  const edit = useDesign((s) => s.edit);
  const set = (label: string, work: (m: Own) => void) =>
    edit(label, (d) => {
      if (d.enclosure.making) work(d.enclosure.making);
    });
  return (
    <>
      <TextField
        label="Name of the making"
        value={making.name}
        path="/enclosure/making/name"
        onCommit={(v) => set("Name", (m) => (m.name = v))}
      />
      <div className="grid grid-cols-2 gap-1.5">
        {FIELDS.map(([key, label]) => (
          <QuantityField
            key={key}
            label={label}
            value={making[key]}
            dimension="length"
            path={`/enclosure/making/${key}`}
            onCommit={(v) => v !== null && set(label, (m) => (m[key] = v))}
          />
        ))}
        <QuantityField
          label="Shrinks by"
          value={making.shrinks}
          dimension="share"
          path="/enclosure/making/shrinks"
          onCommit={(v) => v !== null && set("Shrinkage", (m) => (m.shrinks = v))}
        />
      </div>
    </>
  );
}
