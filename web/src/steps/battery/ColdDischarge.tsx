// What a discharge in the cold tells of a cell that is measured already.
import { useMutation } from "@tanstack/react-query";
import { useId, useState } from "react";
import { ask, client, multipart, type ProblemError, type Schemas } from "../../api/client";
import { QuantityField } from "../../design/fields/fields";
import { FigureRows } from "../../design/fields/figureRows";
import { useDesign, useOpenDesign } from "../../design/store";
import { Button, INPUT } from "../../ui/controls";
import { Problems } from "../../ui/problems";
import { FitPicture } from "./FitPicture";
import { show } from "../../ui/format";

export function ColdDischarge() {
  const { cell } = useOpenDesign().battery;
  const edit = useDesign((s) => s.edit);
  const [degrees, setDegrees] = useState(-10);
  const id = useId();
  const fit = useMutation<Schemas["ColdCell"], ProblemError, File>({
    mutationFn: (file) => {
      const body = new FormData();
      body.append("cell", JSON.stringify(cell));
      body.append("temperature_c", String(degrees));
      body.append("file", file);
      return ask(client.POST("/api/answers/calibration/cold", multipart("/api/answers/calibration/cold", body)));
    },
  });
  const known = cell.curve?.cold;
  return (
    <div className="border-line mt-4 border-t pt-3">
      <p className="text-soft mb-2 text-sm">
        {known
          ? `Measured at ${show(known.temperature_c, "°C")} too.`
          : "One more discharge in the cold, from full to the cut-off, tells how this cell does there. Let it lie in the cold for some hours first."}
      </p>
      <div className="flex flex-wrap gap-3">
        <div className="w-32">
          <QuantityField
            label="Temperature there"
            value={degrees}
            dimension="temperature"
            onCommit={(v) => v !== null && setDegrees(v)}
          />
        </div>
        <label htmlFor={id} className="text-soft block min-w-0 flex-1 text-sm">
          Discharge in the cold (CSV)
          <input
            id={id}
            type="file"
            accept=".csv,text/csv,text/plain"
            className={INPUT}
            onChange={(e) => {
              const file = e.target.files?.[0];
              if (file) fit.mutate(file);
              e.target.value = "";
            }}
          />
        </label>
      </div>
      <Problems error={fit.error} />
      {known && !fit.data && (
        <Button
          onClick={() =>
            edit("Typical in the cold", (d) => {
              if (d.battery.cell.curve) d.battery.cell.curve.cold = null;
            })
          }
        >
          Back to typical in the cold
        </Button>
      )}
      {fit.data && (
        <div className="mt-3 space-y-2" aria-live="polite">
          <p>{fit.data.sentence}</p>
          <FitPicture curves={fit.data.curves} />
          <FigureRows figures={[fit.data.gives, fit.data.resistance, fit.data.capacity]} />
          <Button
            kind="strong"
            onClick={() => {
              edit("Use the discharge in the cold", (d) => {
                d.battery.cell.curve = fit.data.cell.curve;
              });
              fit.reset();
            }}
          >
            Use the discharge in the cold
          </Button>
        </div>
      )}
    </div>
  );
}
