// The room before a body that must stay free, and what for.
import { Plus, Trash2 } from "lucide-react";
import type { Schemas } from "../../api/client";
import { QuantityField } from "../../design/fields/fields";
import { Button, Choice, IconButton } from "../../ui/controls";

type Zone = Schemas["Zone"];
const KINDS = [
  ["plug", "a plug and its cable"],
  ["card", "a card's way in and out"],
  ["removal", "taking it out"],
  ["wires", "the bend of wires"],
  ["antenna", "an antenna"],
  ["sound", "the air a speaker moves"],
  ["air", "air that cools"],
  ["light", "light or a view"],
] as const;
const SIDES = ["left", "right", "front", "back", "bottom", "top"] as const;

export function Zones({
  zones,
  path,
  change,
}: {
  zones: Zone[];
  path: string;
  change: (label: string, work: (zones: Zone[]) => void) => void;
}) {
  return (
    <fieldset className="min-w-0 space-y-2">
      <legend className="text-soft mb-0.5 text-sm">Room that must stay free before it</legend>
      {zones.map((zone, i) => (
        <div key={i} className="border-line space-y-1 rounded-md border p-2">
          <div className="flex items-end gap-1">
            <div className="min-w-0 grow">
              <Choice
                label={`For, room ${i + 1}`}
                bare
                value={zone.kind}
                options={KINDS}
                onChange={(v) => change("Room", (all) => (all[i]!.kind = v))}
              />
            </div>
            <IconButton label={`Remove room ${i + 1}`} onClick={() => change("Remove room", (all) => all.splice(i, 1))}>
              <Trash2 size={14} />
            </IconButton>
          </div>
          <div className="grid grid-cols-3 gap-1.5">
            <Choice
              label="At its"
              value={zone.side}
              options={SIDES.map((s) => [s, s] as const)}
              onChange={(v) => change("Room", (all) => (all[i]!.side = v))}
            />
            <QuantityField
              label="Deep"
              value={zone.depth_mm}
              dimension="length"
              positive
              path={`${path}/${i}/depth_mm`}
              onCommit={(v) => v !== null && change("Depth", (all) => (all[i]!.depth_mm = v))}
            />
            <QuantityField
              label="Wider by"
              value={zone.margin_mm}
              dimension="length"
              path={`${path}/${i}/margin_mm`}
              onCommit={(v) => v !== null && change("Margin", (all) => (all[i]!.margin_mm = v))}
            />
          </div>
        </div>
      ))}
      {zones.length < 6 && (
        <Button
          kind="quiet"
          onClick={() =>
            change("Keep room free", (all) => all.push({ kind: "wires", side: "right", depth_mm: 5, margin_mm: 0 }))
          }
        >
          <Plus size={14} aria-hidden /> Keep room free
        </Button>
      )}
    </fieldset>
  );
}
