// Beside the tree: the selected stage, every figure of it, and its efficiency over load.
import type { ChangeStage } from "./change";
import { Trash2 } from "lucide-react";
import { Link, useParams } from "react-router";
import { removeStage } from "../../design/edits";
import { useDesign, useOpenDesign, useProblemAt, useShown } from "../../design/store";
import type { Stage } from "../../design/types";
import { KeepButton } from "../../design/fields/catalogue";
import { Button, Check, Choice, Toggles } from "../../ui/controls";
import { QuantityField, TextField } from "../../design/fields/fields";
import { FigureButton } from "../../design/fields/figure";
import { EfficiencyPoints } from "./EfficiencyPoints";
import { Row } from "../../ui/row";
import { useFeeds } from "./selection";
import { StageCurve } from "./StageCurve";
import { fieldsOf, figureOf, KIND_NAMES, ROLES, setFigure } from "./stageFields";

export function StageDetails({ id }: { id: string }) {
  const design = useOpenDesign();
  const { variantId } = useParams();
  const shown = useShown();
  const edit = useDesign((s) => s.edit);
  const feeds = useFeeds(id);
  const i = design.supply.stages.findIndex((s) => s.id === id);
  const problem = useProblemAt(`/supply/stages/${i}`);
  const feedProblem = useProblemAt(`/supply/stages/${i}/input`);
  const stage = design.supply.stages[i];
  if (!stage) return null;
  const path = `/supply/stages/${i}`;
  const change: ChangeStage = (label, work) =>
    edit(label, (d) => {
      const found = d.supply.stages.find((s) => s.id === id);
      if (found) work(found);
    });
  const report = shown?.supply.stages.find((s) => s.stage === id);
  const curve = shown?.supply.curves.find((c) => c.stage === id);
  return (
    <section aria-label="Stage" className="space-y-3">
      <header>
        <h2 className="text-lg leading-snug">{stage.name}</h2>
        <p className="text-soft text-sm">{KIND_NAMES[stage.type]}</p>
      </header>
      {problem && (
        <p role="alert" className="text-fail text-sm">
          {problem}
        </p>
      )}
      {report && (
        <dl className="grid grid-cols-[1fr_auto] gap-x-3 gap-y-1 text-[0.9375rem]">
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
          <dd className="col-span-2">
            <Link
              to={`/gadgets/${variantId}/charge`}
              state={{ view: "heat" }}
              className="text-soft text-sm underline underline-offset-2"
            >
              How warm it gets
            </Link>
          </dd>
        </dl>
      )}
      {curve && <StageCurve curve={curve} name={stage.name} />}
      <TextField label="Name" value={stage.name} required onCommit={(v) => change("Rename", (s) => (s.name = v))} />
      <Choice
        label={stage.type === "power-or" ? "First input" : "Fed by"}
        value={stage.input}
        options={feeds}
        problem={feedProblem}
        onChange={(v) => change("Feed", (s) => (s.input = v))}
      />
      {stage.type === "power-or" && (
        <Choice
          label="Second input"
          value={stage.other}
          options={feeds}
          onChange={(v) => change("Second feed", (s) => s.type === "power-or" && (s.other = v))}
        />
      )}
      <Kind stage={stage} change={change} />
      <div className="grid grid-cols-2 items-end gap-2">
        {fieldsOf(stage).map((field) => (
          <QuantityField
            key={field.key}
            label={field.label}
            value={figureOf(stage, field.key)}
            dimension={field.dimension}
            optional={field.optional}
            path={`${path}/${field.key}`}
            onCommit={(v) => change(field.label, (s) => setFigure(s, field.key, v))}
          />
        ))}
        <QuantityField
          label={`Cost, ${design.brief.currency}`}
          value={stage.cost}
          dimension="cost"
          onCommit={(v) => change("Cost", (s) => (s.cost = v ?? 0))}
        />
      </div>
      {stage.type === "switching" && <EfficiencyPoints stage={stage} change={change} path={path} />}
      <Enable stage={stage} change={change} />
      <div className="flex flex-wrap gap-2">
        <KeepButton kind="stage" item={stage} />
        <Button onClick={() => edit(`Remove ${stage.name}`, (d) => removeStage(d, id))}>
          <Trash2 size={15} aria-hidden /> Remove the stage
        </Button>
      </div>
    </section>
  );
}

/** What a kind of stage has besides figures. */
function Kind({ stage, change }: { stage: Stage; change: ChangeStage }) {
  if (stage.type === "switching")
    return (
      <>
        <Choice
          label="Kind"
          value={stage.topology}
          options={[
            ["buck", "buck (down)"],
            ["boost", "boost (up)"],
            ["buck-boost", "buck-boost (down and up)"],
            ["inverting", "inverting (below ground)"],
          ]}
          onChange={(v) => change("Kind", (s) => s.type === "switching" && (s.topology = v))}
        />
        <Check
          label="Load disconnect: switched off, its output is cut"
          checked={stage.load_disconnect}
          onChange={(v) => change("Disconnect", (s) => s.type === "switching" && (s.load_disconnect = v))}
        />
      </>
    );
  if (stage.type === "pass")
    return (
      <>
        <Choice
          label="What it is"
          value={stage.role}
          options={ROLES.map((r) => [r, r] as const)}
          onChange={(v) => change("Role", (s) => s.type === "pass" && (s.role = v))}
        />
        {stage.role !== "protection" && (
          <Check
            label="Carries a protection circuit for the cells"
            checked={stage.protects}
            onChange={(v) => change("Protection", (s) => s.type === "pass" && (s.protects = v))}
          />
        )}
      </>
    );
  if (stage.type === "charge-pump")
    return (
      <Choice
        label="Kind"
        value={stage.inverting ? "-1" : String(stage.ratio)}
        options={[
          ["2", "doubles"],
          ["3", "triples"],
          ["1.5", "one and a half times"],
          ["0.5", "halves"],
          ["-1", "inverts"],
        ]}
        onChange={(v) =>
          change("Kind", (s) => {
            if (s.type !== "charge-pump") return;
            s.inverting = v === "-1";
            s.ratio = Math.abs(Number(v));
          })
        }
      />
    );
  return null;
}

/** Whether the stage can be switched off, and the modes in which it is. */
function Enable({ stage, change }: { stage: Stage; change: ChangeStage }) {
  const design = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  if (stage.type === "diode" || stage.type === "power-or" || stage.type === "shunt-regulator") return null;
  const used = design.modes.some((m) => m.off_stages.includes(stage.id));
  return (
    <fieldset className="border-line rounded-md border p-2">
      <legend className="px-1 text-sm">Switching it off</legend>
      <Check
        label="It has an enable input, or is a switch"
        checked={stage.enable}
        onChange={(v) => (v || !used) && change("Enable input", (s) => ((s as { enable: boolean }).enable = v))}
      />
      {stage.enable && (
        <Toggles
          label="Off while"
          options={design.modes.map((m) => [m.id, m.name] as const)}
          chosen={design.modes.filter((m) => m.off_stages.includes(stage.id)).map((m) => m.id)}
          onChange={(ids) =>
            edit(`${stage.name}: off while`, (d) => {
              for (const mode of d.modes) {
                const others = mode.off_stages.filter((s) => s !== stage.id);
                mode.off_stages = ids.includes(mode.id) ? [...others, stage.id] : others;
              }
            })
          }
        />
      )}
    </fieldset>
  );
}
