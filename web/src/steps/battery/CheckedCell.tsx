// This very cell on a load: what it held, its resistance by a step; kept with it, so that its ageing can be watched.
import { useMutation } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import { FigureRows } from "../../design/fields/figureRows";
import { Quantities } from "../../design/fields/quantities";
import { useInstruments, useMeasurement } from "../../design/measuring";
import { useDesign, useMayChange, useOpenDesign, useShown } from "../../design/store";
import { Button, IconButton, Section } from "../../ui/controls";
import { show } from "../../ui/format";
import { Problems } from "../../ui/problems";
import { setPending, useKeptText } from "../../ui/typed";

type Task = Omit<Schemas["CheckTask"], "cell">;

const FIELDS = [
  { key: "load_a", label: "Load, a current", dimension: "current", optional: true },
  { key: "load_ohm", label: "or a resistor", dimension: "resistance", optional: true },
  { key: "lasted_s", label: "Lasted until the cut-off", dimension: "time", optional: true },
  { key: "mean_v", label: "Mean voltage meanwhile", dimension: "voltage", optional: true, placeholder: "as is usual" },
  { key: "rest_v", label: "At rest before", dimension: "voltage", optional: true },
  { key: "loaded_v", label: "Ten seconds under load", dimension: "voltage", optional: true },
] as const;

const STEP_S = 10;

const today = () => new Date().toISOString().slice(0, 10);

/** An electronic load that the server reaches steps the cell for ten seconds, and fills in what it read. */
function Stepped({
  load,
  onTold,
}: {
  load: number | null;
  onTold: (told: Pick<Task, "rest_v" | "loaded_v" | "load_a">) => void;
}) {
  const reach = useInstruments();
  const { measure, share, wrong, giveUp } = useMeasurement(
    ({ rest_v, loaded_v, drawn_a }) => rest_v != null && onTold({ rest_v, loaded_v, load_a: drawn_a }),
  );
  const own = reach.data?.networks.length ? reach.data.instruments : [];
  if (!own.length) return null;
  return (
    <div className="mt-2 flex flex-wrap items-center gap-1.5">
      <p className="text-soft w-full text-sm">
        {load === null
          ? "An electronic load can step it: type its current first."
          : "An electronic load can step it and fill in what it reads. It lets go below the cut-off."}
      </p>
      {own.map(({ id, name }) => (
        <Button
          key={id}
          disabled={load === null || measure.isPending}
          onClick={() => measure.mutate({ instrument: id, action: "step", seconds: STEP_S, load_a: load })}
        >
          Ten seconds on {name}
        </Button>
      ))}
      {measure.isPending && (
        <>
          <progress className="grow" value={share} aria-label="The load is on the cell" />
          <Button kind="quiet" onClick={giveUp}>
            Stop
          </Button>
        </>
      )}
      {wrong && (
        <p role="alert" className="text-fail w-full text-sm">
          {wrong}
        </p>
      )}
    </div>
  );
}

export function CheckedCell() {
  const { cell, series, parallel } = useOpenDesign().battery;
  const variant = useDesign((s) => s.variant)!;
  const edit = useDesign((s) => s.edit);
  const may = useMayChange();
  const history = useShown()?.battery.history;
  // a check takes hours: what is typed of it stays while one goes elsewhere, and the browser asks before it closes the page
  const draft = `check ${variant.id}`;
  const { text, type } = useKeptText(draft);
  const task = JSON.parse(text ?? "{}") as Task;
  const put = (changed: Task | null) => {
    const some = changed !== null && Object.values(changed).some((v) => v !== null);
    type(some ? JSON.stringify(changed) : null);
    setPending(draft, some);
    checked.reset();
  };
  const checked = useMutation<Schemas["CheckAnswer"], ProblemError>({
    mutationFn: () => ask(client.POST("/api/answers/check", { body: { ...task, cell } })),
  });
  const found = checked.data;
  const keep = (answer: Schemas["CheckAnswer"]) => {
    edit("A check of the cell", (d) => {
      const { battery } = d;
      battery.cell.checks.push({
        date: today(),
        capacity_ah: answer.capacity_ah,
        resistance_ohm: answer.resistance_ohm,
        how: "",
      });
      if (answer.resistance_ohm !== null) battery.cell.measured_ohm = answer.resistance_ohm;
      if (answer.capacity_ah !== null) {
        battery.cell.measured_ah = answer.capacity_ah;
        [battery.age_years, battery.cycles] = [0, 0]; // they count from the measurement
      }
    });
    put(null);
  };
  return (
    <Section title="This cell, checked" className={cell.checks.length ? "" : "print:hidden"}>
      <p className="text-soft mb-2 text-sm">
        {series * parallel > 1 && "One cell by itself, out of its pack. "}Full, then on a load until it is at{" "}
        {show(cell.cutoff_v, "V")}: never lower, never unattended, on what does not burn; a cell that gets warm or
        swells is taken off. The voltage before and under the load tells its resistance.
      </p>
      {may && (
        <div className="grid grid-cols-2 gap-2">
          <Quantities of={task} fields={FIELDS} onCommit={(key, v) => put({ ...task, [key]: v })} />
        </div>
      )}
      {may && <Stepped load={task.load_a ?? null} onTold={(told) => put({ ...task, ...told })} />}
      {may && (
        <Button className="mt-2" busy={checked.isPending} onClick={() => checked.mutate()}>
          Work it out
        </Button>
      )}
      <Problems error={checked.error} />
      {found && (
        <div className="mt-3 space-y-2" aria-live="polite">
          {found.sentences.map((s) => (
            <p key={s}>{s}</p>
          ))}
          <FigureRows figures={[found.held, found.share, found.resistance].filter((f) => f !== null)} />
          {(found.capacity_ah !== null || found.resistance_ohm !== null) && (
            <Button kind="strong" onClick={() => keep(found)}>
              Keep it with the cell
            </Button>
          )}
        </div>
      )}
      {cell.checks.length > 0 && (
        <div className="mt-3">
          {history?.sentence && <p className="mb-2">{history.sentence}</p>}
          <table className="w-full text-sm" aria-label="Checks of this cell">
            <thead>
              <tr className="text-left">
                {["on", "held", "resistance", ""].map((h) => (
                  <th key={h} scope="col" className="border-line border-b py-1 pr-2 font-medium">
                    {h}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {cell.checks.map((c, i) => (
                <tr key={`${c.date} ${i}`} className="border-line/60 border-b tabular-nums">
                  <td className="py-1 pr-2">{c.date}</td>
                  <td className="py-1 pr-2">{c.capacity_ah === null ? "–" : show(c.capacity_ah, "Ah")}</td>
                  <td className="py-1 pr-2">{c.resistance_ohm === null ? "–" : show(c.resistance_ohm, "Ω")}</td>
                  <td className="w-8 text-right">
                    {may && (
                      <IconButton
                        label={`Remove the check of ${c.date}`}
                        onClick={() => edit("Remove a check", (d) => d.battery.cell.checks.splice(i, 1))}
                      >
                        <Trash2 size={14} aria-hidden />
                      </IconButton>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </Section>
  );
}
