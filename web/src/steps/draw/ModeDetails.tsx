// Beside the grid: the selected mode.
import { ArrowLeft, ArrowRight, Copy, Trash2 } from "lucide-react";
import { copyMode, removeMode } from "../../design/edits";
import { useDesign, useOpenDesign, useShown } from "../../design/store";
import { Button, Check, Toggles } from "../../ui/controls";
import { QuantityField, TextField } from "../../design/fields/fields";
import { WAKES } from "./WakeFields";

export function ModeDetails({ mode: modeId }: { mode: string }) {
  const design = useOpenDesign();
  const shown = useShown();
  const edit = useDesign((s) => s.edit);
  const index = design.modes.findIndex((m) => m.id === modeId);
  const mode = design.modes[index];
  if (!mode) return null;
  const report = shown?.draw.modes.find((m) => m.mode === modeId);
  const shift = (by: number) =>
    edit("Move a mode", (d) => {
      const [taken] = d.modes.splice(index, 1);
      if (taken) d.modes.splice(index + by, 0, taken);
    });
  return (
    <section aria-label="Mode" className="space-y-3">
      <h2 className="text-lg">The mode {mode.name}</h2>
      {report && (
        <p className="text-soft">
          {mode.name} {report.failure}.
        </p>
      )}
      <TextField
        label="Name"
        value={mode.name}
        required
        onCommit={(v) => edit("Rename a mode", (d) => (d.modes[index]!.name = v))}
      />
      <Check
        label="Essential: when it fails, the gadget counts as empty"
        checked={mode.essential}
        onChange={(v) => edit("Essential", (d) => (d.modes[index]!.essential = v))}
      />
      <QuantityField
        label="Has to last by itself, from full"
        value={mode.goal_h}
        dimension="time"
        unit="h"
        optional
        positive
        placeholder="no goal"
        path={`/modes/${index}/goal_h`}
        onCommit={(v) => edit(`Goal for ${mode.name}`, (d) => (d.modes[index]!.goal_h = v))}
      />
      <Check
        label="The gadget rests in this mode"
        checked={design.day.rest === modeId}
        onChange={(v) => v && edit("Rest mode", (d) => (d.day.rest = modeId))}
      />
      <Check
        label="The user has switched it off; what it draws then is drain"
        checked={mode.switched_off}
        onChange={(v) => edit("Switched off", (d) => (d.modes[index]!.switched_off = v))}
      />
      <Toggles
        label="What has to end it"
        options={WAKES}
        chosen={mode.woken_by}
        onChange={(by) => edit("Woken by", (d) => (d.modes[index]!.woken_by = by))}
      />
      {mode.woken_by.includes("pin") && (
        <QuantityField
          label="on how many pins"
          value={mode.wake_pins}
          dimension="count"
          path={`/modes/${index}/wake_pins`}
          onCommit={(v) => edit("Wake pins", (d) => (d.modes[index]!.wake_pins = v ?? 0))}
        />
      )}
      {design.supply.stages.some((s) => s.enable) && (
        <Toggles
          label="Switched off meanwhile"
          options={design.supply.stages.filter((s) => s.enable).map((s) => [s.id, s.name] as const)}
          chosen={mode.off_stages}
          onChange={(ids) => edit("Switched off meanwhile", (d) => (d.modes[index]!.off_stages = ids))}
        />
      )}
      {design.supply.sources.length > 0 && (
        <Toggles
          label="Plugged in meanwhile"
          options={design.supply.sources.map((s) => [s.id, s.name] as const)}
          chosen={mode.plugged}
          onChange={(ids) => edit("Plugged in meanwhile", (d) => (d.modes[index]!.plugged = ids))}
        />
      )}
      <div className="flex flex-wrap gap-2">
        <Button disabled={index === 0} onClick={() => shift(-1)}>
          <ArrowLeft size={15} aria-hidden /> Earlier
        </Button>
        <Button disabled={index === design.modes.length - 1} onClick={() => shift(1)}>
          Later <ArrowRight size={15} aria-hidden />
        </Button>
        <Button onClick={() => edit("Copy a mode", (d) => copyMode(d, modeId, `${mode.name} 2`))}>
          <Copy size={15} aria-hidden /> Copy
        </Button>
        <Button
          disabled={design.modes.length === 1}
          onClick={() => edit(`Remove ${mode.name}`, (d) => removeMode(d, modeId))}
        >
          <Trash2 size={15} aria-hidden /> Remove
        </Button>
      </div>
    </section>
  );
}
