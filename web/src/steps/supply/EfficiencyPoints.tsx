// A converter's efficiency points: typed, or pasted as a table with current, efficiency and input voltage.
import Papa from "papaparse";
import { Trash2 } from "lucide-react";
import { useState } from "react";
import { ProblemError } from "../../api/client";
import { useProblemAt } from "../../design/store";
import type { Stage } from "../../design/types";
import { Button, IconButton, INPUT } from "../../ui/controls";
import { QuantityField, readQuantity } from "../../design/fields/fields";
import type { ChangeStage } from "./change";

type Switching = Extract<Stage, { type: "switching" }>;
type Point = Switching["points"][number];

export function EfficiencyPoints({ stage, change, path }: { stage: Switching; change: ChangeStage; path: string }) {
  const problem = useProblemAt(`${path}/points`);
  const set = (work: (points: Point[]) => void) =>
    change("Efficiency points", (s) => s.type === "switching" && work(s.points));
  return (
    <fieldset className="space-y-1.5">
      <legend className="text-base font-medium">Efficiency points of the datasheet</legend>
      {problem && (
        <p role="alert" className="text-fail text-sm">
          {problem}
        </p>
      )}
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
            onCommit={(v) => v !== null && set((p) => (p[i]!.current_a = v))}
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
            onCommit={(v) => v !== null && set((p) => (p[i]!.input_v = v))}
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
      <div className="flex flex-wrap gap-1.5">
        <Button kind="quiet" onClick={() => set((p) => p.push(following(p.at(-1)!, stage.limit_a)))}>
          Add a point
        </Button>
        <Button
          kind="quiet"
          onClick={() => set((p) => p.sort((a, b) => a.input_v - b.input_v || a.current_a - b.current_a))}
        >
          Put them in order
        </Button>
      </div>
      <PointsTable take={(points) => set((p) => p.splice(0, p.length, ...points))} />
    </fieldset>
  );
}

const following = (last: Point, limit: number): Point => ({
  ...last,
  current_a: last.current_a * 2 <= limit ? last.current_a * 2 : (last.current_a + limit) / 2,
});

/** Points as CSV, from a file or pasted; nothing is taken while a line cannot be read. */
function PointsTable({ take }: { take: (points: Point[]) => void }) {
  const [text, setText] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const read = async (source: string) => {
    const { data } = Papa.parse<string[]>(source.trim(), {
      delimitersToGuess: ["\t", ";", ","],
      skipEmptyLines: "greedy",
    });
    const lines = data.map((cells) => cells.map((c) => c.trim()));
    const rows = lines.filter((cells, i) => i > 0 || /\d/.test(cells[0] ?? ""));
    const points: Point[] = [];
    for (const [i, cells] of rows.entries()) {
      if (cells.length !== 3) return setProblem(`line ${i + 1} has ${cells.length} columns; three are needed`);
      try {
        const [current, efficiency, input] = cells as [string, string, string];
        points.push({
          current_a: await readQuantity(current, "current"),
          efficiency: await readQuantity(efficiency, "share"),
          input_v: await readQuantity(input, "voltage"),
        });
      } catch (error) {
        return setProblem(`line ${i + 1}: ${error instanceof ProblemError ? error.message : "cannot be read"}`);
      }
    }
    if (points.length === 0 || points.length > 64) return setProblem(`has ${points.length} points; 1 to 64 are taken`);
    setProblem(null);
    setText("");
    take(points);
  };
  return (
    <details className="text-sm">
      <summary className="text-soft cursor-pointer">Points from a table or a CSV file</summary>
      <div className="mt-1.5 space-y-1.5">
        <textarea
          aria-label="Points, a line each: output current, efficiency, input voltage"
          className={INPUT}
          rows={3}
          placeholder={"10 mA, 89 %, 3.7 V\n100 mA, 92 %, 3.7 V"}
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        {problem && (
          <p role="alert" className="text-fail">
            {problem}
          </p>
        )}
        <div className="flex flex-wrap items-center gap-1.5">
          <Button disabled={!text.trim()} onClick={() => void read(text)}>
            Take these points
          </Button>
          <input
            type="file"
            accept=".csv,text/csv,text/plain"
            aria-label="Points from a CSV file"
            className="max-w-full text-sm"
            onChange={(e) => {
              const file = e.target.files?.[0];
              e.target.value = "";
              if (!file) return;
              if (file.size > 100_000) setProblem("the file is larger than 100 KB");
              else void file.text().then(read);
            }}
          />
        </div>
      </div>
    </details>
  );
}
