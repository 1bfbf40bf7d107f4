// What a board is made of: the board itself, what stands on it and hangs below, and its holes for screws.
import { Plus, Trash2 } from "lucide-react";
import { Button, Check, IconButton } from "../../ui/controls";
import { show } from "../../ui/format";
import type { Body } from "../types";
import { QuantityField, SizeField, TextField } from "./fields";

type Change = (label: string, work: (body: Body) => void) => void;
const MOST_BLOCKS = 40;
const MOST_HOLES = 16;
const USUAL_THICKNESS = 1.6;
const USUAL_HOLE = 2.2;

/** Makes a body a board: a plate of its width and depth to begin with, or what it had. */
export function asBoard(body: Body): void {
  body.shape = "board";
  const [x, y, z] = body.size_mm;
  if (body.blocks.length === 0)
    body.blocks = [
      { name: "Board", at_mm: [0, 0, 0], size_mm: [x, y, z < USUAL_THICKNESS ? z : USUAL_THICKNESS], spare: false },
    ];
  around(body);
}

/** The box grows with what stands out of it. */
function around(body: Body): void {
  for (const { at_mm, size_mm } of body.blocks)
    body.size_mm = body.size_mm.map((v, i) =>
      Math.max(v, Number((at_mm[i]! + size_mm[i]!).toFixed(3))),
    ) as Body["size_mm"];
}

export function Blocks({ body, path, change }: { body: Body; path: string; change: Change }) {
  const { blocks, holes } = body;
  const top = blocks[0] ? blocks[0].at_mm[2] + blocks[0].size_mm[2] : 0;
  return (
    <div className="space-y-2">
      <fieldset className="min-w-0">
        <legend className="text-soft mb-0.5 text-sm">The board, and what is on it and below</legend>
        <ul className="space-y-1">
          {blocks.map((block, i) => (
            <li key={i}>
              <details className="border-line rounded-md border px-2 py-1">
                <summary className="min-h-6 cursor-pointer text-[0.9375rem]">
                  {block.name}
                  <span className="text-soft">
                    {" "}
                    {block.size_mm.map((v) => show(v, "mm").replace(/\D+$/, "")).join(" × ")} mm
                    {block.spare && ", can be left off"}
                  </span>
                </summary>
                <div className="space-y-1.5 py-1.5">
                  <TextField
                    label={`What it is, ${i + 1}`}
                    value={block.name}
                    required
                    path={`${path}/blocks/${i}/name`}
                    onCommit={(v) => change("Name", (b) => (b.blocks[i]!.name = v))}
                  />
                  <SizeField
                    label={`Size of ${block.name}`}
                    value={block.size_mm}
                    names={["x", "y", "z"]}
                    path={`${path}/blocks/${i}/size_mm`}
                    onCommit={(v) =>
                      change("Size", (b) => {
                        b.blocks[i]!.size_mm = v;
                        around(b);
                      })
                    }
                  />
                  <SizeField
                    label={`Corner of ${block.name} in its box`}
                    value={block.at_mm}
                    names={["x", "y", "z"]}
                    path={`${path}/blocks/${i}/at_mm`}
                    onCommit={(v) =>
                      change("Place", (b) => {
                        b.blocks[i]!.at_mm = v;
                        around(b);
                      })
                    }
                  />
                  {i > 0 && (
                    <div className="flex items-center justify-between gap-2">
                      <Check
                        label="Can be left off"
                        checked={block.spare}
                        onChange={(v) => change("Can be left off", (b) => (b.blocks[i]!.spare = v))}
                      />
                      <IconButton
                        label={`Remove ${block.name}`}
                        onClick={() => change(`Remove ${block.name}`, (b) => b.blocks.splice(i, 1))}
                      >
                        <Trash2 size={14} />
                      </IconButton>
                    </div>
                  )}
                </div>
              </details>
            </li>
          ))}
        </ul>
        {blocks.length < MOST_BLOCKS && (
          <Button
            kind="quiet"
            onClick={() =>
              change("Something on the board", (b) => {
                b.blocks.push({ name: "Connector", at_mm: [0, 0, top], size_mm: [8, 6, 3], spare: false });
                around(b);
              })
            }
          >
            <Plus size={14} aria-hidden /> Something on it
          </Button>
        )}
      </fieldset>
      <fieldset className="min-w-0">
        <legend className="text-soft mb-0.5 text-sm">Holes for screws: x, y from the corner, diameter</legend>
        <ul className="space-y-1">
          {holes.map((hole, i) => (
            <li key={i} className="flex items-end gap-1.5">
              {([0, 1] as const).map((k) => (
                <QuantityField
                  key={k}
                  bare
                  label={`Hole ${i + 1}, ${"xy"[k]}`}
                  value={hole.at_mm[k]}
                  dimension="length"
                  path={`${path}/holes/${i}/at_mm/${k}`}
                  onCommit={(v) => v !== null && change("Hole", (b) => (b.holes[i]!.at_mm[k] = v))}
                />
              ))}
              <QuantityField
                bare
                label={`Hole ${i + 1}, diameter`}
                value={hole.diameter_mm}
                dimension="length"
                positive
                path={`${path}/holes/${i}/diameter_mm`}
                onCommit={(v) => v !== null && change("Hole", (b) => (b.holes[i]!.diameter_mm = v))}
              />
              <IconButton
                label={`Remove hole ${i + 1}`}
                onClick={() => change("Remove a hole", (b) => b.holes.splice(i, 1))}
              >
                <Trash2 size={14} />
              </IconButton>
            </li>
          ))}
        </ul>
        {holes.length < MOST_HOLES && blocks[0] && (
          <Button
            kind="quiet"
            onClick={() =>
              change("A hole", (b) => {
                const [x, y] = b.blocks[0]!.at_mm;
                b.holes.push({ at_mm: [x + USUAL_HOLE, y + USUAL_HOLE], diameter_mm: USUAL_HOLE });
              })
            }
          >
            <Plus size={14} aria-hidden /> Hole
          </Button>
        )}
      </fieldset>
    </div>
  );
}
