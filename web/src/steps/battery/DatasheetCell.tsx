// A cell of one's own from a datasheet's few figures; what the sheet does not say comes from cells of its kind.
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import { takeCell } from "../../design/edits";
import { useDesign } from "../../design/store";
import { Problems } from "../../ui/problems";
import { Button, Choice } from "../../ui/controls";
import { Dialog } from "../../ui/dialog";
import { SizeField, TextField } from "../../design/fields/fields";
import { FigureRows } from "../../design/fields/figureRows";
import { Quantities } from "../../design/fields/quantities";
import { CHEMISTRIES, FORMS } from "./names";

type Task = Schemas["CellTask"];
const START: Task = {
  name: "My cell",
  chemistry: "lithium-ion",
  form: "pouch",
  capacity_ah: 1,
  size_mm: [34, 50, 6],
  cost: 0,
};

const KIND = { optional: true, placeholder: "of its kind" } as const;
const FIGURES = [
  { key: "capacity_ah", label: "Capacity", dimension: "charge" },
  { key: "capacity_at_a", label: "at a current of", dimension: "current", optional: true },
  { key: "second_ah", label: "Capacity at a larger current", dimension: "charge", optional: true },
  { key: "second_at_a", label: "of", dimension: "current", optional: true },
  { key: "resistance_ohm", label: "Resistance", dimension: "resistance", ...KIND },
  { key: "cutoff_v", label: "Cut-off", dimension: "voltage", ...KIND },
  { key: "discharge_max_a", label: "Max discharge current", dimension: "current", ...KIND },
  { key: "mass_g", label: "Mass", dimension: "mass", ...KIND },
] as const;

export function DatasheetCell() {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>From a datasheet</Button>
      <Dialog title="A cell from its datasheet" open={open} onOpenChange={setOpen} wide>
        {open && <Form close={() => setOpen(false)} />}
      </Dialog>
    </>
  );
}

function Form({ close }: { close: () => void }) {
  const edit = useDesign((s) => s.edit);
  const [task, setTask] = useState(START);
  const put = (some: Partial<Task>) => {
    setTask({ ...task, ...some });
    made.reset();
  };
  const made = useMutation<Schemas["DatasheetCell"], ProblemError, Task>({
    mutationFn: (body) => ask(client.POST("/api/answers/datasheet", { body })),
  });
  return (
    <div className="grid items-start gap-6 lg:grid-cols-[1fr_18rem]">
      <div className="grid grid-cols-2 gap-3">
        <div className="col-span-2">
          <TextField label="Name" value={task.name} required onCommit={(name) => put({ name })} />
        </div>
        <Choice
          label="Chemistry"
          value={task.chemistry}
          options={CHEMISTRIES}
          onChange={(chemistry) => put({ chemistry })}
        />
        <Choice label="Form" value={task.form} options={FORMS.slice(0, 3)} onChange={(form) => put({ form })} />
        <Quantities of={task} fields={FIGURES} onCommit={(key, v) => put({ [key]: v })} />
        <div className="col-span-2">
          <SizeField label="Size" value={task.size_mm} onCommit={(size_mm) => put({ size_mm })} />
        </div>
      </div>
      <div className="space-y-3" aria-live="polite">
        <Button kind="strong" busy={made.isPending} onClick={() => made.mutate(task)}>
          Work it out
        </Button>
        <Problems error={made.error} />
        {made.data && (
          <>
            <p>{made.data.sentence}</p>
            <FigureRows figures={[...made.data.assumed, made.data.left_behind, made.data.second]} />
            <Button
              kind="strong"
              onClick={() => {
                const { cell } = made.data;
                edit(`Use ${cell.name}`, (d) => takeCell(d, cell));
                close();
              }}
            >
              Use this cell
            </Button>
          </>
        )}
      </div>
    </div>
  );
}
