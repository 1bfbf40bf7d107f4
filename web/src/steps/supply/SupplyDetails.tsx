// Beside the tree: the selected stage or rail, every figure of it.
import { Trash2 } from "lucide-react";
import type { ReactNode } from "react";
import { Link, useParams } from "react-router";
import { removeStage } from "../../design/edits";
import { useDesign, useOpenDesign, useShown } from "../../design/store";
import type { Stage } from "../../design/types";
import { Button, Choice, IconButton } from "../../ui/controls";
import { QuantityField, TextField } from "../../ui/fields";
import { FigureButton } from "../../ui/figure";

export type SupplySelection = { kind: "battery" | "stage" | "rail"; id: string };

export function SupplyDetails({ selected }: { selected: SupplySelection }) {
  const { variantId } = useParams();
  if (selected.kind === "stage") return <StageDetails id={selected.id} />;
  if (selected.kind === "rail") return <RailDetails id={selected.id} />;
  return (
    <section aria-label="Battery">
      <h2 className="text-lg">The battery</h2>
      <p className="text-soft mt-1">
        It is chosen in{" "}
        <Link className="underline underline-offset-2" to={`/gadgets/${variantId}/battery`}>
          Battery
        </Link>
        .
      </p>
    </section>
  );
}

/** What a stage or rail may be fed from: everything that does not hang on it. */
function useSources(except?: string): [string, string][] {
  const { stages } = useOpenDesign().supply;
  const hangsOn = (id: string): boolean =>
    id === except || stages.some((s) => s.id === id && s.input !== "battery" && hangsOn(s.input));
  return [
    ["battery", "the battery"],
    ...stages.filter((s) => !except || !hangsOn(s.id)).map((s): [string, string] => [s.id, s.name]),
  ];
}

function StageDetails({ id }: { id: string }) {
  const design = useOpenDesign();
  const shown = useShown();
  const edit = useDesign((s) => s.edit);
  const sources = useSources(id);
  const i = design.supply.stages.findIndex((s) => s.id === id);
  const stage = design.supply.stages[i];
  if (!stage) return null;
  const path = `/supply/stages/${i}`;
  const change = (label: string, work: (s: Stage) => void) =>
    edit(label, (d) => {
      const found = d.supply.stages.find((s) => s.id === id);
      if (found) work(found);
    });
  const report = shown?.supply.stages.find((s) => s.stage === id);
  return (
    <section aria-label="Stage" className="space-y-3">
      <h2 className="text-lg leading-snug">{stage.name}</h2>
      {report && (
        <dl className="grid grid-cols-2 gap-x-3 gap-y-1 text-[0.9375rem]">
          <Row name="mean output">
            <FigureButton figure={report.output_current} />
          </Row>
          <Row name="peak output">
            <FigureButton figure={report.peak_output_current} />
          </Row>
          <Row name="efficiency over the day">
            <FigureButton figure={report.efficiency} />
          </Row>
          <Row name="loss">
            <FigureButton figure={report.loss} />
          </Row>
        </dl>
      )}
      <TextField label="Name" value={stage.name} required onCommit={(v) => change("Rename", (s) => (s.name = v))} />
      <Choice
        label="Fed by"
        value={stage.input}
        options={sources}
        onChange={(v) => change("Feed", (s) => (s.input = v))}
      />
      <div className="grid grid-cols-2 gap-2">
        <StageFields stage={stage} path={path} change={change} />
        <QuantityField
          label="Most output current"
          value={stage.limit_a}
          dimension="current"
          path={`${path}/limit_a`}
          onCommit={(v) => v && change("Limit", (s) => (s.limit_a = v))}
        />
        <QuantityField
          label={`Cost, ${design.brief.currency}`}
          value={stage.cost}
          dimension="cost"
          onCommit={(v) => change("Cost", (s) => (s.cost = v ?? 0))}
        />
      </div>
      {stage.type === "switching" && <Points stage={stage} change={change} path={path} />}
      <Button onClick={() => edit(`Remove ${stage.name}`, (d) => removeStage(d, id))}>
        <Trash2 size={15} aria-hidden /> Remove the stage
      </Button>
    </section>
  );
}

type Change = (label: string, work: (s: Stage) => void) => void;

function StageFields({ stage, path, change }: { stage: Stage; path: string; change: Change }) {
  if (stage.type === "series")
    return (
      <>
        <QuantityField
          label="Resistance"
          value={stage.resistance_ohm}
          dimension="resistance"
          path={`${path}/resistance_ohm`}
          onCommit={(v) => v !== null && change("Resistance", (s) => s.type === "series" && (s.resistance_ohm = v))}
        />
        <QuantityField
          label="Leakage"
          value={stage.leakage_a}
          dimension="current"
          path={`${path}/leakage_a`}
          onCommit={(v) => change("Leakage", (s) => s.type === "series" && (s.leakage_a = v ?? 0))}
        />
      </>
    );
  const shared = (
    <>
      <QuantityField
        label="Output voltage"
        value={stage.output_v}
        dimension="voltage"
        path={`${path}/output_v`}
        onCommit={(v) => v && change("Output voltage", (s) => s.type !== "series" && (s.output_v = v))}
      />
      <QuantityField
        label="Quiescent current"
        value={stage.quiescent_a}
        dimension="current"
        path={`${path}/quiescent_a`}
        onCommit={(v) => change("Quiescent current", (s) => s.type !== "series" && (s.quiescent_a = v ?? 0))}
      />
    </>
  );
  if (stage.type === "linear")
    return (
      <>
        {shared}
        <QuantityField
          label="Dropout"
          value={stage.dropout_v}
          dimension="voltage"
          path={`${path}/dropout_v`}
          onCommit={(v) => v !== null && change("Dropout", (s) => s.type === "linear" && (s.dropout_v = v))}
        />
        <QuantityField
          label="at a current of"
          value={stage.dropout_at_a}
          dimension="current"
          path={`${path}/dropout_at_a`}
          onCommit={(v) => v && change("Dropout current", (s) => s.type === "linear" && (s.dropout_at_a = v))}
        />
      </>
    );
  return (
    <>
      {shared}
      <Choice
        label="Kind"
        value={stage.topology}
        options={[
          ["buck", "buck (down)"],
          ["boost", "boost (up)"],
          ["buck-boost", "buck-boost"],
        ]}
        onChange={(v) => change("Kind", (s) => s.type === "switching" && (s.topology = v))}
      />
      <QuantityField
        label="Stops below"
        value={stage.running_min_v}
        dimension="voltage"
        path={`${path}/running_min_v`}
        onCommit={(v) => v && change("Least input", (s) => s.type === "switching" && (s.running_min_v = v))}
      />
    </>
  );
}

function Points({
  stage,
  change,
  path,
}: {
  stage: Extract<Stage, { type: "switching" }>;
  change: Change;
  path: string;
}) {
  const set = (work: (points: typeof stage.points) => void) =>
    change("Efficiency points", (s) => s.type === "switching" && work(s.points));
  return (
    <fieldset className="space-y-1.5">
      <legend className="text-base font-medium">Efficiency points of the datasheet</legend>
      <div className="text-soft grid grid-cols-[1fr_1fr_1fr_auto] gap-1.5 text-xs" aria-hidden>
        <span>output</span>
        <span>efficiency</span>
        <span>at input</span>
        <span className="w-8" />
      </div>
      {stage.points.map((point, i) => (
        <div key={i} className="grid grid-cols-[1fr_1fr_1fr_auto] gap-1.5">
          <QuantityField
            bare
            label={`Point ${i + 1}: output current`}
            value={point.current_a}
            dimension="current"
            path={`${path}/points/${i}/current_a`}
            onCommit={(v) => v && set((p) => (p[i]!.current_a = v))}
          />
          <QuantityField
            bare
            label={`Point ${i + 1}: efficiency`}
            value={point.efficiency}
            dimension="share"
            path={`${path}/points/${i}/efficiency`}
            onCommit={(v) => v !== null && set((p) => (p[i]!.efficiency = v))}
          />
          <QuantityField
            bare
            label={`Point ${i + 1}: input voltage`}
            value={point.input_v}
            dimension="voltage"
            path={`${path}/points/${i}/input_v`}
            onCommit={(v) => v && set((p) => (p[i]!.input_v = v))}
          />
          <IconButton
            label={`Remove point ${i + 1}`}
            disabled={stage.points.length === 1}
            onClick={() => set((p) => p.splice(i, 1))}
          >
            <Trash2 size={14} />
          </IconButton>
        </div>
      ))}
      <Button kind="quiet" onClick={() => set((p) => p.push({ ...p.at(-1)!, current_a: p.at(-1)!.current_a * 2 }))}>
        Add a point
      </Button>
    </fieldset>
  );
}

function RailDetails({ id }: { id: string }) {
  const design = useOpenDesign();
  const shown = useShown();
  const edit = useDesign((s) => s.edit);
  const sources = useSources();
  const i = design.supply.rails.findIndex((r) => r.id === id);
  const rail = design.supply.rails[i];
  if (!rail) return null;
  const report = shown?.supply.rails.find((r) => r.rail === id);
  const parts = design.parts.filter((p) => p.rail === id);
  return (
    <section aria-label="Rail" className="space-y-3">
      <h2 className="text-lg leading-snug">{rail.name}</h2>
      {report && (
        <dl className="grid grid-cols-2 gap-x-3 gap-y-1">
          <Row name="voltage">
            <FigureButton figure={report.voltage} />
          </Row>
          <Row name="mean current">
            <FigureButton figure={report.current} />
          </Row>
        </dl>
      )}
      <TextField
        label="Name"
        value={rail.name}
        required
        onCommit={(v) => edit("Rename a rail", (d) => (d.supply.rails[i]!.name = v))}
      />
      <Choice
        label="Fed by"
        value={rail.feed}
        options={sources}
        onChange={(v) => edit("Feed a rail", (d) => (d.supply.rails[i]!.feed = v))}
      />
      <p className="text-soft text-sm">
        {parts.length ? `On it: ${parts.map((p) => p.name).join(", ")}` : "Nothing hangs on it yet."}
      </p>
      <Button
        disabled={parts.length > 0 || design.supply.rails.length === 1}
        onClick={() => edit("Remove a rail", (d) => d.supply.rails.splice(i, 1))}
      >
        <Trash2 size={15} aria-hidden /> Remove the rail
      </Button>
    </section>
  );
}

export function Row({ name, children }: { name: string; children: ReactNode }) {
  return (
    <>
      <dt className="text-soft">{name}</dt>
      <dd className="text-right">{children}</dd>
    </>
  );
}
