// Beside the tree: the selected rail, its capacitor, and what could be otherwise with it.
import { HelpCircle, Trash2 } from "lucide-react";
import { useState } from "react";
import { useDesign, useOpenDesign, useProblemAt, useShown } from "../../design/store";
import { Button, Choice } from "../../ui/controls";
import { QuantityField, TextField } from "../../design/fields/fields";
import { FigureButton } from "../../design/fields/figure";
import { RailAnswers } from "./RailAnswers";
import { Row } from "../../ui/row";
import { useFeeds } from "./selection";

export function RailDetails({ id }: { id: string }) {
  const design = useOpenDesign();
  const shown = useShown();
  const edit = useDesign((s) => s.edit);
  const feeds = useFeeds();
  const [asking, setAsking] = useState(false);
  const i = design.supply.rails.findIndex((r) => r.id === id);
  const problem = useProblemAt(`/supply/rails/${i}/feed`);
  const rail = design.supply.rails[i];
  if (!rail) return null;
  const report = shown?.supply.rails.find((r) => r.rail === id);
  const parts = design.parts.filter((p) => p.rail === id);
  const path = `/supply/rails/${i}/capacitor`;
  const bulk = rail.capacitor;
  const setBulk = (change: Partial<NonNullable<typeof bulk>> | null) =>
    edit("Capacitor", (d) => {
      const target = d.supply.rails[i]!;
      target.capacitor = change && {
        farad: 1e-4,
        esr_ohm: 0.05,
        leakage_a: 0,
        rated_v: null,
        ...target.capacitor,
        ...change,
      };
    });
  return (
    <section aria-label="Rail" className="space-y-3">
      <h2 className="text-lg leading-snug">{rail.name}</h2>
      {report && (
        <dl className="grid grid-cols-[1fr_auto] gap-x-3 gap-y-1">
          <Row name="voltage">
            <FigureButton figure={report.voltage} />
          </Row>
          <Row name="mean current">
            <FigureButton figure={report.current} />
          </Row>
        </dl>
      )}
      <Button kind="strong" onClick={() => setAsking(true)}>
        <HelpCircle size={15} aria-hidden /> What if it were otherwise?
      </Button>
      <RailAnswers rail={rail} open={asking} onOpenChange={setAsking} />
      <TextField
        label="Name"
        value={rail.name}
        required
        onCommit={(v) => edit("Rename a rail", (d) => (d.supply.rails[i]!.name = v))}
      />
      <Choice
        label="Fed by"
        value={rail.feed}
        options={feeds}
        problem={problem}
        onChange={(v) => edit("Feed a rail", (d) => (d.supply.rails[i]!.feed = v))}
      />
      <div className="grid grid-cols-3 items-end gap-2">
        <QuantityField
          label="Bulk capacitor"
          value={bulk?.farad ?? null}
          dimension="capacitance"
          optional
          placeholder="none"
          path={`${path}/farad`}
          onCommit={(v) => setBulk(v === null ? null : { farad: v })}
        />
        {bulk && (
          <>
            <QuantityField
              label="Its ESR"
              value={bulk.esr_ohm}
              dimension="resistance"
              path={`${path}/esr_ohm`}
              onCommit={(v) => v !== null && setBulk({ esr_ohm: v })}
            />
            <QuantityField
              label="Its leakage"
              value={bulk.leakage_a}
              dimension="current"
              path={`${path}/leakage_a`}
              onCommit={(v) => setBulk({ leakage_a: v ?? 0 })}
            />
            <QuantityField
              label="Rated for"
              value={bulk.rated_v}
              dimension="voltage"
              optional
              placeholder="not given"
              path={`${path}/rated_v`}
              onCommit={(v) => setBulk({ rated_v: v })}
            />
          </>
        )}
      </div>
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
