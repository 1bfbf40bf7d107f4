// Beside the views: the case itself.
import { useDesign, useOpenDesign, useShown } from "../../design/store";
import { StatusMark } from "../../design/fields/status";
import type { Design, Status } from "../../design/types";
import { MATERIALS } from "../../design/fields/materials";
import { QuantityField, SizeField } from "../../design/fields/fields";
import { show } from "../../ui/format";
import { Button, Choice } from "../../ui/controls";
import { CaseFromFile } from "./BodyFromFile";
import { CaseFile } from "./CaseFile";
import { Holding } from "./Holding";
import { Letters } from "./Letters";
import { Making } from "./Making";

const PROCESSES = [
  ["filament", "filament print"],
  ["resin", "resin print"],
  ["milled", "milled"],
  ["ready-made", "a ready-made box"],
] as const;
const SIDES = ["left", "right", "front", "back", "bottom", "top"] as const;
const METALS: readonly string[] = ["aluminium", "steel"];
const USUAL_GROOVE = 0.78; // of a cord, to begin with
const FINISHES = [
  ["as made", "as made"],
  ["sanded", "sanded"],
  ["smoothed", "smoothed by vapour"],
  ["coated", "coated"],
] as const;

type Change = (label: string, work: (e: Design["enclosure"]) => void) => void;

export function CaseDetails({ select }: { select: (where: string) => void }) {
  const design = useOpenDesign();
  const shown = useShown();
  const edit = useDesign((s) => s.edit);
  const { enclosure } = design;
  const set: Change = (label, work) => edit(label, (d) => work(d.enclosure));
  return (
    <section aria-label="Case" className="space-y-3">
      <h2 className="text-lg">The case</h2>
      {enclosure.shape ? <OfItsFile set={set} /> : <OfABox set={set} />}
      <Choice
        label="Material"
        value={enclosure.plastic}
        options={MATERIALS}
        onChange={(v) => set("Plastic", (e) => (e.plastic = v))}
      />
      <div className="grid grid-cols-2 gap-2">
        <Choice
          label="Its upper piece"
          value={enclosure.lid ?? ""}
          options={[["", "the same"], ...MATERIALS] as const}
          onChange={(v) => set("Material of the lid", (e) => (e.lid = v || null))}
        />
        <QuantityField
          label="Gap of the lid"
          value={enclosure.lid_gap_mm}
          dimension="length"
          optional
          placeholder="not known"
          path="/enclosure/lid_gap_mm"
          onCommit={(v) => set("Gap of the lid", (e) => (e.lid_gap_mm = v))}
        />
      </div>
      {METALS.includes(enclosure.plastic) &&
        (enclosure.radio_window_mm ? (
          <div className="grid grid-cols-2 gap-2">
            {([0, 1] as const).map((k) => (
              <QuantityField
                key={k}
                label={k ? "high" : "Window for a radio, wide"}
                value={enclosure.radio_window_mm![k]}
                dimension="length"
                positive
                optional={k === 0}
                path={`/enclosure/radio_window_mm/${k}`}
                onCommit={(v) =>
                  set("Window for a radio", (e) => {
                    if (v === null) e.radio_window_mm = null;
                    else e.radio_window_mm![k] = v;
                  })
                }
              />
            ))}
          </div>
        ) : (
          <Button onClick={() => set("Window for a radio", (e) => (e.radio_window_mm = [70, 30]))}>
            A window for a radio
          </Button>
        ))}
      {(enclosure.seal || design.brief.exposure !== "dry") && (
        <div className="grid grid-cols-2 gap-2">
          <QuantityField
            label="Sealing cord"
            value={enclosure.seal?.cord_mm ?? null}
            dimension="length"
            optional
            positive
            placeholder="none"
            path="/enclosure/seal/cord_mm"
            onCommit={(v) =>
              set("Sealing cord", (e) => {
                e.seal =
                  v === null ? null : { groove_mm: Number((v * USUAL_GROOVE).toFixed(2)), ...e.seal, cord_mm: v };
              })
            }
          />
          {enclosure.seal && (
            <QuantityField
              label="Its groove, deep"
              value={enclosure.seal.groove_mm}
              dimension="length"
              positive
              path="/enclosure/seal/groove_mm"
              onCommit={(v) => v !== null && set("Groove", (e) => e.seal && (e.seal.groove_mm = v))}
            />
          )}
        </div>
      )}
      <div className="grid grid-cols-2 gap-2">
        <Choice
          label="How it is made"
          value={enclosure.process}
          options={PROCESSES}
          onChange={(v) => set("Process", (e) => (e.process = v))}
        />
        <Choice
          label="Its surfaces"
          value={enclosure.finish}
          options={FINISHES}
          onChange={(v) => set("Finish", (e) => (e.finish = v))}
        />
      </div>
      <div className="grid grid-cols-2 gap-2">
        <QuantityField
          label="To the walls"
          value={enclosure.clearance_mm}
          dimension="length"
          optional
          placeholder={`usual: ${show(shown?.fit.clearance_mm, "mm")}`}
          path="/enclosure/clearance_mm"
          onCommit={(v) => set("Clearance", (e) => (e.clearance_mm = v))}
        />
        <QuantityField
          label="Between bodies"
          value={enclosure.gap_mm}
          dimension="length"
          path="/enclosure/gap_mm"
          onCommit={(v) => v !== null && set("Gap", (e) => (e.gap_mm = v))}
        />
        {enclosure.process === "filament" && (
          <QuantityField
            label="Filled inside its walls"
            value={enclosure.infill}
            dimension="share"
            positive
            path="/enclosure/infill"
            onCommit={(v) => v !== null && set("Infill", (e) => (e.infill = v))}
          />
        )}
        {design.battery.cell.form === "pouch" && (
          <QuantityField
            label="Kept for swelling"
            value={design.battery.swelling}
            dimension="share"
            path="/battery/swelling"
            onCommit={(v) => v !== null && edit("Swelling", (d) => (d.battery.swelling = v))}
          />
        )}
        <QuantityField
          label={`Cost, ${design.brief.currency}`}
          value={enclosure.cost}
          dimension="cost"
          onCommit={(v) => set("Cost of the case", (e) => (e.cost = v ?? 0))}
        />
      </div>
      {!enclosure.shape && (
        <>
          <Holding select={select} />
          <Letters />
          <CaseFile />
        </>
      )}
      <CaseFromFile change={set} />
      <Making />
    </section>
  );
}

/** What can be said of a case whose shape is that of a file. */
function OfItsFile({ set }: { set: Change }) {
  const { shape, outer_mm, split_mm } = useOpenDesign().enclosure;
  const thin = useShown()?.fit.thin ?? [];
  if (!shape) return null;
  return (
    <div className="space-y-1">
      <p className="text-[0.9375rem]">
        As in {shape.name}: {outer_mm.map((v) => show(v, "mm")).join(" × ")}.{" "}
        {shape.thin[0] && `At its thinnest ${show(shape.thin[0].thickness_mm, "mm")}.`}
      </p>
      {thin.length > 0 && (
        <details>
          <summary className="text-soft cursor-pointer text-sm">
            {thin.length} thin {thin.length === 1 ? "spot" : "spots"}, marked in space
          </summary>
          <ul className="text-sm">
            {thin.map((t) => (
              <li key={t.at_mm.join()} className="flex items-center gap-2">
                <StatusMark status={t.status as Status} />
                {show(t.thickness_mm, "mm")} at {t.at_mm.map((v) => show(v, "mm")).join(", ")}
              </li>
            ))}
          </ul>
        </details>
      )}
      <QuantityField
        label="Comes apart at height"
        value={split_mm}
        dimension="length"
        optional
        placeholder="in one piece"
        path="/enclosure/split_mm"
        onCommit={(v) => set("Where it comes apart", (e) => (e.split_mm = v))}
      />
      <Button
        onClick={() =>
          set("A box again", (e) => {
            e.shape = null;
          })
        }
      >
        A box again
      </Button>
    </div>
  );
}

const JOINTS = [
  ["rim", "a rim in a recess"],
  ["flat", "flat"],
] as const;

/** A box: its size, walls and edges, where it comes apart, what its sides and its top are like. */
function OfABox({ set }: { set: Change }) {
  const { enclosure } = useOpenDesign();
  const fit = useShown()?.fit;
  return (
    <>
      <SizeField
        label="Outer size"
        value={enclosure.outer_mm}
        names={["x", "y", "z"]}
        path="/enclosure/outer_mm"
        onCommit={(v) => set("Size of the case", (e) => (e.outer_mm = v))}
      />
      {fit && (
        <SizeField
          label="Inside"
          value={fit.cavity_mm as [number, number, number]}
          names={["x", "y", "z"]}
          onCommit={(v) => set("Inside of the case", (e) => (e.outer_mm = around(v, fit.walls_mm)))}
        />
      )}
      <div className="grid grid-cols-2 gap-2">
        <QuantityField
          label="Wall"
          value={enclosure.wall_mm}
          dimension="length"
          path="/enclosure/wall_mm"
          positive
          onCommit={(v) => v !== null && set("Wall", (e) => (e.wall_mm = v))}
        />
        <QuantityField
          label="Comes apart at height"
          value={enclosure.split_mm}
          dimension="length"
          optional
          placeholder="below its top"
          path="/enclosure/split_mm"
          onCommit={(v) => set("Where it comes apart", (e) => (e.split_mm = v))}
        />
        <Choice
          label="Where its pieces meet"
          value={enclosure.joint}
          options={JOINTS}
          onChange={(v) => set("Where its pieces meet", (e) => (e.joint = v))}
        />
        <QuantityField
          label="Upright edges, radius"
          value={enclosure.corner_mm}
          dimension="length"
          path="/enclosure/corner_mm"
          onCommit={(v) => v !== null && set("Rounded edges", (e) => (e.corner_mm = v))}
        />
        <QuantityField
          label="Edges around, radius"
          value={enclosure.edge_mm}
          dimension="length"
          path="/enclosure/edge_mm"
          onCommit={(v) => v !== null && set("Rounded edges", (e) => (e.edge_mm = v))}
        />
        <QuantityField
          label="Sides lean inwards"
          value={enclosure.taper_deg}
          dimension="angle"
          path="/enclosure/taper_deg"
          onCommit={(v) => v !== null && set("Sides that lean", (e) => (e.taper_deg = v))}
        />
        <QuantityField
          label="Top domed by"
          value={enclosure.dome_mm}
          dimension="length"
          path="/enclosure/dome_mm"
          onCommit={(v) => v !== null && set("Dome", (e) => (e.dome_mm = v))}
        />
      </div>
      <details open={enclosure.walls_mm ? true : undefined}>
        <summary className="text-soft cursor-pointer text-sm">Walls that are not as thick as the others</summary>
        <div className="mt-1 grid grid-cols-3 gap-1.5">
          {SIDES.map((side) => (
            <QuantityField
              key={side}
              label={side}
              value={enclosure.walls_mm?.[side] ?? null}
              dimension="length"
              optional
              positive
              placeholder={show(enclosure.wall_mm, "mm")}
              path={`/enclosure/walls_mm/${side}`}
              onCommit={(v) =>
                set(`Wall: ${side}`, (e) => {
                  const walls = { ...e.walls_mm, [side]: v };
                  e.walls_mm = SIDES.some((s) => typeof walls[s] === "number") ? walls : null;
                })
              }
            />
          ))}
        </div>
      </details>
    </>
  );
}

/** Its outer size around so much room. */
const around = (inside: readonly number[], walls: readonly number[]) =>
  inside.map((v, i) => Number((v + walls[2 * i]! + walls[2 * i + 1]!).toFixed(3))) as [number, number, number];
