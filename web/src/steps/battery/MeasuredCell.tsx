// A cell's own curves from one to three measured discharges, with the quality of the fit before it is taken.
import { useMutation } from "@tanstack/react-query";
import { useId } from "react";
import { ask, client, multipart, type ProblemError, type Schemas } from "../../api/client";
import { useDesign, useOpenDesign } from "../../design/store";
import { Problems } from "../../ui/problems";
import { Button, INPUT, Section } from "../../ui/controls";
import { StatusMark } from "../../design/fields/status";
import { FigureRows } from "../../design/fields/figureRows";
import { ColdDischarge } from "./ColdDischarge";
import { FitPicture } from "./FitPicture";

export function MeasuredCell() {
  const { cell } = useOpenDesign().battery;
  const edit = useDesign((s) => s.edit);
  const id = useId();
  const fit = useMutation<Schemas["FittedCell"], ProblemError, File[]>({
    mutationFn: (files) => {
      const body = new FormData();
      body.append("cell", JSON.stringify({ ...cell, curve: null }));
      for (const file of files) body.append("files", file);
      return ask(client.POST("/api/answers/calibration", multipart("/api/answers/calibration", body)));
    },
  });
  return (
    <Section
      title="Measured discharges"
      className={cell.curve ? "" : "print:hidden"}
      aside={
        cell.curve && (
          <Button onClick={() => edit("Typical curves", (d) => (d.battery.cell.curve = null))}>
            Back to typical curves
          </Button>
        )
      }
    >
      <p className="text-soft mb-2 text-sm">
        {cell.curve
          ? "This cell has curves of its own. The resistance beside its name is not used while they are there."
          : "A measured cell is worth more than a typical one. Take it from full to its cut-off at one steady current; a second discharge at two to ten times the current measures its resistance as well, a third at the largest current what only that loses. Through a resistor or at a constant power will do too."}
      </p>
      <label htmlFor={id} className="text-soft mb-0.5 block text-sm">
        One to three CSV files with time, voltage and current
      </label>
      <input
        id={id}
        type="file"
        multiple
        accept=".csv,text/csv,text/plain"
        className={INPUT}
        onChange={(e) => {
          const files = [...(e.target.files ?? [])];
          if (files.length) fit.mutate(files);
          e.target.value = "";
        }}
      />
      <Problems error={fit.error} />
      {fit.data && (
        <div className="mt-3 space-y-2" aria-live="polite">
          <p>{fit.data.sentence}</p>
          {fit.data.doubts.length > 0 && (
            <ul className="space-y-1" aria-label="What cannot be right">
              {fit.data.doubts.map((d) => (
                <li key={d.key} className="flex gap-2">
                  <StatusMark status="fail" />
                  <span>{d.sentence}</span>
                </li>
              ))}
            </ul>
          )}
          <FitPicture curves={fit.data.curves} />
          <FigureRows
            figures={[
              fit.data.capacity,
              fit.data.resistance,
              ...fit.data.begun,
              fit.data.mean_error,
              fit.data.worst_error,
              fit.data.runtime_error,
            ]}
          />
          <Button
            kind={fit.data.doubts.length > 0 ? "plain" : "strong"}
            onClick={() => {
              edit("Use the measured cell", (d) => {
                const { capacity_ah, curve } = fit.data.cell;
                Object.assign(d.battery.cell, { capacity_ah, curve });
              });
              fit.reset();
            }}
          >
            {fit.data.doubts.length > 0 ? "Use it all the same" : "Use the measured cell"}
          </Button>
        </div>
      )}
      {cell.curve && <ColdDischarge />}
    </Section>
  );
}
