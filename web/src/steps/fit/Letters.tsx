// Letters on the outside of the case: raised or engraved, on any side.
import { Trash2 } from "lucide-react";
import { QuantityField, TextField } from "../../design/fields/fields";
import { useDesign, useOpenDesign } from "../../design/store";
import type { Design } from "../../design/types";
import { Button, Check, Choice, IconButton } from "../../ui/controls";

type Label = Design["enclosure"]["labels"][number];
const MOST = 8;
const SIDES = (["top", "front", "back", "left", "right", "bottom"] as const).map((s) => [s, s] as const);
const TURNS = ([0, 90, 180, 270] as const).map((v) => [String(v), v ? `${v}°` : "upright"] as const);
const ACROSS: Record<Label["side"], readonly [string, string]> = {
  left: ["y", "z"],
  right: ["y", "z"],
  front: ["x", "z"],
  back: ["x", "z"],
  bottom: ["x", "y"],
  top: ["x", "y"],
};

export function Letters() {
  const { labels } = useOpenDesign().enclosure;
  const edit = useDesign((s) => s.edit);
  const add = () =>
    edit("Letters on the case", (d) =>
      d.enclosure.labels.push({
        text: d.name.slice(0, 40),
        side: "top",
        height_mm: 6,
        depth_mm: 0.6,
        raised: false,
        at_mm: null,
        turned_deg: 0,
      }),
    );
  return (
    <fieldset className="min-w-0 space-y-1.5">
      <legend className="text-soft mb-0.5 text-sm">Letters on it</legend>
      {labels.map((label, i) => (
        <OneLabel key={i} label={label} at={i} />
      ))}
      {labels.length < MOST && <Button onClick={add}>{labels.length ? "More letters" : "Put letters on it"}</Button>}
    </fieldset>
  );
}

function OneLabel({ label, at }: { label: Label; at: number }) {
  const edit = useDesign((s) => s.edit);
  const path = `/enclosure/labels/${at}`;
  const set = (work: (l: Label) => void) =>
    edit("Letters on the case", (d) => {
      const own = d.enclosure.labels[at];
      if (own) work(own);
    });
  return (
    <div className="border-line space-y-1.5 border-b pb-2 last-of-type:border-0">
      <div className="flex items-end gap-2">
        <div className="min-w-0 flex-1">
          <TextField
            label="Text"
            value={label.text}
            path={`${path}/text`}
            max={40}
            required
            onCommit={(v) => set((l) => (l.text = v))}
          />
        </div>
        <IconButton
          label={`Remove the letters ${label.text}`}
          onClick={() => edit("Remove letters", (d) => d.enclosure.labels.splice(at, 1))}
        >
          <Trash2 size={14} />
        </IconButton>
      </div>
      <div className="grid grid-cols-2 gap-2">
        <Choice
          label="On its"
          value={label.side}
          options={SIDES}
          onChange={(v) =>
            set((l) => {
              l.side = v;
              l.at_mm = null;
            })
          }
        />
        <Choice
          label="Stand"
          value={String(label.turned_deg)}
          options={TURNS}
          onChange={(v) => set((l) => (l.turned_deg = Number(v) as Label["turned_deg"]))}
        />
        <QuantityField
          label="Capitals, high"
          value={label.height_mm}
          dimension="length"
          positive
          path={`${path}/height_mm`}
          onCommit={(v) => v !== null && set((l) => (l.height_mm = v))}
        />
        <QuantityField
          label={label.raised ? "Raised by" : "Engraved by"}
          value={label.depth_mm}
          dimension="length"
          positive
          path={`${path}/depth_mm`}
          onCommit={(v) => v !== null && set((l) => (l.depth_mm = v))}
        />
        {([0, 1] as const).map((k) => (
          <QuantityField
            key={k}
            label={`Middle at ${ACROSS[label.side][k]}`}
            value={label.at_mm?.[k] ?? null}
            dimension="length"
            optional
            placeholder="middle"
            path={`${path}/at_mm/${k}`}
            onCommit={(v) =>
              edit("Letters on the case", (d) => {
                const own = d.enclosure.labels[at];
                if (own) own.at_mm = v === null ? null : placed(d, own, k, v);
              })
            }
          />
        ))}
      </div>
      <Check label="Raised, not engraved" checked={label.raised} onChange={(v) => set((l) => (l.raised = v))} />
    </div>
  );
}

/** Where it is put when one of both is typed: the other one stays, or is the middle of its side. */
function placed(design: Design, label: Label, k: 0 | 1, value: number): [number, number] {
  const [a, b] = ACROSS[label.side].map((axis) => design.enclosure.outer_mm["xyz".indexOf(axis)]! / 2);
  const found: [number, number] = label.at_mm ? [label.at_mm[0], label.at_mm[1]] : [a!, b!];
  found[k] = value;
  return found;
}
