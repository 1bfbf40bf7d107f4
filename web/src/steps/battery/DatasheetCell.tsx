// A cell of one's own from a datasheet's few figures; what the sheet does not say comes from cells of its kind.
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import { useDesign } from "../../design/store";
import { Problems } from "../../pages/NewGadget";
import { Button, Choice } from "../../ui/controls";
import { Dialog } from "../../ui/dialog";
import { QuantityField, SizeField, TextField } from "../../ui/fields";
import { FigureButton } from "../../ui/figure";
import { Row } from "../../ui/row";
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
        <QuantityField
          label="Capacity"
          value={task.capacity_ah}
          dimension="charge"
          onCommit={(v) => v && put({ capacity_ah: v })}
        />
        <QuantityField
          label="at a current of"
          value={task.capacity_at_a}
          dimension="current"
          optional
          onCommit={(v) => put({ capacity_at_a: v })}
        />
        <QuantityField
          label="Capacity at a larger current"
          value={task.second_ah}
          dimension="charge"
          optional
          onCommit={(v) => put({ second_ah: v })}
        />
        <QuantityField
          label="of"
          value={task.second_at_a}
          dimension="current"
          optional
          onCommit={(v) => put({ second_at_a: v })}
        />
        <QuantityField
          label="Resistance"
          value={task.resistance_ohm}
          dimension="resistance"
          optional
          placeholder="of its kind"
          onCommit={(v) => put({ resistance_ohm: v })}
        />
        <QuantityField
          label="Cut-off"
          value={task.cutoff_v}
          dimension="voltage"
          optional
          placeholder="of its kind"
          onCommit={(v) => put({ cutoff_v: v })}
        />
        <QuantityField
          label="Most discharge current"
          value={task.discharge_max_a}
          dimension="current"
          optional
          placeholder="of its kind"
          onCommit={(v) => put({ discharge_max_a: v })}
        />
        <QuantityField
          label="Mass"
          value={task.mass_g}
          dimension="mass"
          optional
          placeholder="of its kind"
          onCommit={(v) => put({ mass_g: v })}
        />
        <div className="col-span-2">
          <SizeField
            label="Size"
            value={task.size_mm as [number, number, number]}
            onCommit={(size_mm) => put({ size_mm })}
          />
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
            <dl className="grid grid-cols-[1fr_auto] gap-x-3 gap-y-1">
              {[...made.data.assumed, made.data.left_behind, made.data.second].map(
                (f) =>
                  f && (
                    <Row key={f.label} name={f.label.toLowerCase()}>
                      <FigureButton figure={f} />
                    </Row>
                  ),
              )}
            </dl>
            <Button
              kind="strong"
              onClick={() => {
                const { cell } = made.data;
                edit(`Use ${cell.name}`, (d) => {
                  d.battery.cell = structuredClone(cell);
                  if (d.battery.body) d.battery.body.size_mm = [...cell.size_mm];
                });
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
