// What room something takes: a cuboid by its three sides, a cylinder by its diameter and its length, a board by what is on it.
import { Choice } from "../../ui/controls";
import { show } from "../../ui/format";
import type { Body } from "../types";
import { asBoard, Blocks } from "./Blocks";
import { QuantityField, SizeField } from "./fields";

const AXES = ["x", "y", "z"] as const;

/** A cylinder's diameter and length. */
const rounded = (diameter: number, length: number, along: Body["along"]): Body["size_mm"] => {
  const size: Body["size_mm"] = [diameter, diameter, diameter];
  size[AXES.indexOf(along)] = length;
  return size;
};

const diameterOf = (body: Body) => body.size_mm[body.along === "x" ? 1 : 0];
const lengthOf = (body: Body) => body.size_mm[AXES.indexOf(body.along)]!;

export function BodySize({
  body,
  path,
  label = "Size",
  change,
}: {
  body: Body;
  path: string;
  label?: string;
  change: (label: string, work: (body: Body) => void) => void;
}) {
  return (
    <div className="space-y-2">
      <div className="grid grid-cols-2 gap-2">
        <Choice
          label="Shape"
          value={body.shape}
          options={[
            ["cuboid", "cuboid"],
            ["cylinder", "cylinder"],
            ["board", "board"],
            ...(body.shape === "mesh" ? ([["mesh", "as in its file"]] as const) : []),
          ]}
          onChange={(shape) =>
            change("Shape", (b) => {
              b.hull_mm = [];
              b.surface = null;
              b.file = null;
              b.off_mm = 0;
              if (shape === "cylinder") b.size_mm = rounded(Math.min(b.size_mm[0], b.size_mm[1]), b.size_mm[2], "z");
              b.along = "z";
              b.shape = shape;
              if (shape === "board") asBoard(b);
            })
          }
        />
        {body.shape === "cylinder" && (
          <Choice
            label="Lies along"
            value={body.along}
            options={AXES.map((a) => [a, a] as const)}
            onChange={(along) =>
              change("Lies along", (b) => {
                b.size_mm = rounded(diameterOf(b), lengthOf(b), along);
                b.along = along;
              })
            }
          />
        )}
      </div>
      {body.shape === "mesh" && (
        <p className="text-sm">
          {body.file}: {body.size_mm.map((v) => show(v, "mm")).join(" × ")}
        </p>
      )}
      {body.shape === "mesh" ? null : body.shape === "cylinder" ? (
        <div className="grid grid-cols-2 gap-2">
          <QuantityField
            label="Diameter"
            value={diameterOf(body)}
            dimension="length"
            path={`${path}/size_mm/${body.along === "x" ? 1 : 0}`}
            positive
            onCommit={(v) => v !== null && change("Diameter", (b) => (b.size_mm = rounded(v, lengthOf(b), b.along)))}
          />
          <QuantityField
            label="Length"
            value={lengthOf(body)}
            dimension="length"
            path={`${path}/size_mm/${AXES.indexOf(body.along)}`}
            positive
            onCommit={(v) => v !== null && change("Length", (b) => (b.size_mm = rounded(diameterOf(b), v, b.along)))}
          />
        </div>
      ) : (
        <SizeField
          label={label}
          value={body.size_mm}
          names={["x", "y", "z"]}
          path={`${path}/size_mm`}
          onCommit={(v) => change("Size", (b) => (b.size_mm = v))}
        />
      )}
      {body.shape === "board" && <Blocks body={body} path={path} change={change} />}
    </div>
  );
}
