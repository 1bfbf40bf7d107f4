// Beside the views: the selected body's size and place.
import { useDesign, useOpenDesign } from "../../design/store";
import type { Body } from "../../design/types";
import { Button, Check, Choice } from "../../ui/controls";
import { BodySize } from "../../design/fields/BodySize";
import { QuantityField, SizeField } from "../../design/fields/fields";
import { bodyAt, bodyName, fasteningAt, isFastening, keyed, partAt, quarter, removeFastening } from "./bodies";
import { BodyFromFile } from "./BodyFromFile";
import { Films } from "./Films";
import { Zones } from "./Zones";

const AXES = ["x", "y", "z"] as const;
const SIDES = [
  ["", "stays inside"],
  ["left", "the left side (x = 0)"],
  ["right", "the right side"],
  ["front", "the front (y = 0)"],
  ["back", "the back"],
  ["bottom", "the bottom (z = 0)"],
  ["top", "the top"],
] as const;

const FITS = [
  ["free", "put in freely"],
  ["sliding", "sliding"],
  ["press", "pressed in"],
] as const;

export function BodyDetails({ where, close }: { where: string; close: () => void }) {
  const design = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const body = bodyAt(design, where);
  if (!body) return null;
  const name = bodyName(design, where);
  const change = (label: string, work: (b: Body) => void) =>
    edit(`${label}: ${name}`, (d) => {
      const found = bodyAt(d, where);
      if (found) work(found);
    });
  const turn = (a: 0 | 1 | 2, b: 0 | 1 | 2) => change("Turn", (x) => quarter(x, a, b));
  const own = partAt(design, where);
  const held = isFastening(where);
  const fastening = fasteningAt(design, where);
  const boards = design.parts.filter((p) => p.body && p !== own).map((p) => [p.id, p.name] as const);
  return (
    <section aria-label="Body" className="space-y-3">
      <h2 className="text-lg leading-snug">{name}</h2>
      <BodySize body={body} path={`${where}/body`} change={change} />
      {!held && <BodyFromFile change={change} />}
      {body.position_mm && (
        <SizeField
          label="Place of its left, front, bottom corner"
          value={body.position_mm}
          names={["x", "y", "z"]}
          path={`${where}/body/position_mm`}
          onCommit={(v) => change("Place", (b) => (b.position_mm = v))}
        />
      )}
      {own && own.quantity > 1 && <Rows where={where} />}
      <fieldset className="min-w-0">
        <legend className="text-soft mb-0.5 text-sm">Turned about its middle</legend>
        <div className="grid grid-cols-3 gap-1.5">
          {body.turn_deg.map((angle, i) => (
            <QuantityField
              key={AXES[i]}
              bare
              label={`Turned about ${AXES[i]}`}
              value={angle}
              dimension="angle"
              path={`${where}/body/turn_deg/${i}`}
              onCommit={(v) => v !== null && change("Turn", (b) => (b.turn_deg[i] = v))}
            />
          ))}
        </div>
      </fieldset>
      {held ? (
        <>
          <p className="text-soft text-sm">
            A piece of the case: it may stand at the walls, and what is inside keeps off it.
          </p>
          {fastening?.kind === "snap" && (
            <QuantityField
              label="Its root is strained to"
              value={fastening.strain}
              dimension="share"
              optional
              placeholder="not known"
              path={`${where}/strain`}
              onCommit={(v) =>
                edit(`Strain: ${name}`, (d) => {
                  const draft = fasteningAt(d, where);
                  if (draft) draft.strain = v;
                })
              }
            />
          )}
          {fastening?.thread && !fastening.carries && (
            <Check
              label="Its head lies in a countersink of the lid"
              checked={fastening.sunk}
              onChange={(v) =>
                edit(`Countersink: ${name}`, (d) => {
                  const draft = fasteningAt(d, where);
                  if (draft) draft.sunk = v;
                })
              }
            />
          )}
          {fastening?.thread && (
            <Choice
              label="Carries"
              value={fastening.carries ?? ""}
              options={[
                ["", "nothing: it holds the case"],
                ...keyed(design).map(([key, called]) => [key, called] as const),
              ]}
              onChange={(v) =>
                edit(`Carries: ${name}`, (d) => {
                  const draft = fasteningAt(d, where);
                  if (!draft) return;
                  draft.carries = v === "" ? null : v;
                  if (draft.carries) draft.sunk = false; // its screw goes through no lid
                })
              }
            />
          )}
        </>
      ) : (
        <>
          <Choice
            label="Shows or plugs through"
            value={body.through ?? ""}
            options={SIDES}
            onChange={(v) =>
              change("Opening", (b) => {
                b.through = v === "" ? null : v;
                if (v === "") b.window = null;
              })
            }
          />
          {body.through && <Window body={body} where={where} change={change} />}
          <Choice
            label="Sits between the walls"
            value={body.fits}
            options={FITS}
            onChange={(v) => change("Fit", (b) => (b.fits = v))}
          />
          <Choice
            label="Sits on"
            value={body.on ?? ""}
            options={[["", "nothing: it has a place of its own"], ...boards]}
            onChange={(v) => change("Sits on", (b) => (b.on = v === "" ? null : v))}
          />
          <Films where={where} />
          <Zones
            zones={body.zones}
            path={`${where}/body/zones`}
            change={(label, work) => change(label, (b) => work(b.zones))}
          />
        </>
      )}
      <div className="flex flex-wrap gap-2">
        <Button onClick={() => turn(0, 1)}>Turn flat</Button>
        <Button onClick={() => turn(1, 2)}>Stand it up</Button>
        {body.position_mm && !held && (
          <Button onClick={() => change("Take out", (b) => (b.position_mm = null))}>Take it out</Button>
        )}
        {held && (
          <Button
            onClick={() => {
              edit(`Remove ${name}`, (d) => removeFastening(d, where));
              close();
            }}
          >
            Remove it
          </Button>
        )}
        <Button kind="quiet" onClick={close}>
          Back to the case
        </Button>
      </div>
      <p className="text-soft text-sm">
        Arrow keys move it by 0.5 mm in the view that has the focus, with Shift by 0.1 mm.
      </p>
    </section>
  );
}

const ALONG = AXES.map((a) => [a, a] as const);

/** How several copies of a part lie: in rows that are placed and moved as one. */
function Rows({ where }: { where: string }) {
  const design = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const part = partAt(design, where);
  if (!part) return null;
  const grid = part.grid;
  const usual = { columns: Math.ceil(Math.sqrt(part.quantity)), along: "x", across: "y" } as const;
  const set = (label: string, change: Partial<NonNullable<typeof grid>>) =>
    edit(`${label}: ${part.name}`, (d) => {
      const found = partAt(d, where);
      if (found) found.grid = { pitch_mm: null, row_pitch_mm: null, ...usual, ...found.grid, ...change };
    });
  const fields = [
    ["pitch_mm", "From one to the next"],
    ["row_pitch_mm", "From row to row"],
  ] as const;
  return (
    <fieldset className="min-w-0">
      <legend className="text-soft mb-0.5 text-sm">{part.quantity} of them, moved as one</legend>
      <div className="grid grid-cols-3 gap-1.5">
        <QuantityField
          label="In a row"
          value={grid?.columns ?? usual.columns}
          dimension="count"
          positive
          path={`${where}/grid/columns`}
          onCommit={(v) => v !== null && set("In a row", { columns: v })}
        />
        <Choice
          label="Rows along"
          value={grid?.along ?? usual.along}
          options={ALONG}
          onChange={(v) =>
            set("Rows along", {
              along: v,
              ...(v === (grid?.across ?? usual.across) && { across: grid?.along ?? usual.along }),
            })
          }
        />
        <Choice
          label="beside each other"
          value={grid?.across ?? usual.across}
          options={ALONG}
          onChange={(v) =>
            set("Rows beside each other", {
              across: v,
              ...(v === (grid?.along ?? usual.along) && { along: grid?.across ?? usual.across }),
            })
          }
        />
        {fields.map(([key, label]) => (
          <QuantityField
            key={key}
            label={label}
            value={grid?.[key] ?? null}
            dimension="length"
            optional
            positive
            placeholder="side by side"
            path={`${where}/grid/${key}`}
            onCommit={(v) => set(label, { [key]: v })}
          />
        ))}
      </div>
    </fieldset>
  );
}

const COVERED = 2; // of its edge all around, to begin with
const WINDOW_FIELDS = [
  ["x of its corner", "at_mm", 0],
  ["y of its corner", "at_mm", 1],
  ["Wide", "size_mm", 0],
  ["Tall", "size_mm", 1],
] as const;

/** Through a wall as it is, or behind it and seen through a window. */
function Window({
  body,
  where,
  change,
}: {
  body: Body;
  where: string;
  change: (label: string, work: (b: Body) => void) => void;
}) {
  const { window } = body;
  const path = `${where}/body/window`;
  return (
    <fieldset className="min-w-0 space-y-1.5">
      <Check
        label="Behind the wall, seen through a window"
        checked={!!window}
        onChange={(v) => change("Window", (b) => (b.window = v ? newWindow(b) : null))}
      />
      {window && (
        <div className="grid grid-cols-2 gap-1.5">
          {WINDOW_FIELDS.map(([label, key, k]) => (
            <QuantityField
              key={label}
              label={label}
              value={window[key][k]}
              dimension="length"
              positive={key === "size_mm"}
              path={`${path}/${key}/${k}`}
              onCommit={(v) => v !== null && change("Window", (b) => b.window && (b.window[key][k] = v))}
            />
          ))}
          <QuantityField
            label="Film or pane before it"
            value={window.film_mm}
            dimension="length"
            path={`${path}/film_mm`}
            onCommit={(v) => v !== null && change("Film", (b) => b.window && (b.window.film_mm = v))}
          />
        </div>
      )}
    </fieldset>
  );
}

/** A window that leaves a little of each edge covered, on the side that looks to the wall while nothing is turned. */
function newWindow({ size_mm, through }: Body): NonNullable<Body["window"]> {
  const axis = SIDES.findIndex(([side]) => side === through) - 1;
  const wide = size_mm.filter((_, k) => k !== axis >> 1);
  const size = wide.map((v) => (v > 2 * COVERED ? v - 2 * COVERED : v)) as [number, number];
  const at = wide.map((v) => (v > 2 * COVERED ? COVERED : 0)) as [number, number];
  return { at_mm: at, size_mm: size, film_mm: 0 };
}
