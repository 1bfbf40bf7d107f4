// For the firmware: voltage to charge left, and below which voltage to save and stop.
import { Download } from "lucide-react";
import { ask, client } from "../../api/client";
import { useOpenDesign } from "../../design/store";
import { Answered, useAnswer } from "../../design/fields/answer";
import { Button, Section } from "../../ui/controls";
import { saveText } from "../../ui/download";
import { FigureButton } from "../../design/fields/figure";
import { Row } from "../../ui/row";

export function Firmware() {
  const { name, brief } = useOpenDesign();
  const asking = useAnswer(["soc-table"], (design, signal) =>
    ask(client.POST("/api/answers/soc-table", { body: design, signal })),
  );
  const file = name.toLowerCase().replaceAll(/[^a-z0-9]+/g, "-");
  return (
    <Answered
      asking={asking}
      waiting="Reading off the voltages"
      nothing="Add a part in Draw, and the table is made here."
    >
      {(table) => (
        <Section
          title="Voltage to charge left"
          aside={
            <>
              <Button onClick={() => saveText(table.csv, "text/csv", `${file}-soc-table.csv`)}>
                <Download size={14} aria-hidden /> CSV
              </Button>
              <Button onClick={() => saveText(table.header, "text/x-c", `${file}-soc-table.h`)}>
                <Download size={14} aria-hidden /> C header
              </Button>
            </>
          }
        >
          <p className="mb-3">{table.sentence}</p>
          <div className="grid items-start gap-6 lg:grid-cols-[16rem_1fr]">
            <div>
              <dl className="mb-3 grid grid-cols-[1fr_auto] gap-x-3 gap-y-1">
                <Row name="stop below">
                  <FigureButton figure={table.threshold} className="font-display text-lg" />
                </Row>
                <Row name="the first mode fails at">
                  <FigureButton figure={table.last} />
                </Row>
              </dl>
              <table className="w-full text-sm">
                <thead className="text-soft">
                  <tr>
                    <th className="pb-1 text-right font-normal">left</th>
                    <th className="pb-1 text-right font-normal">at {brief.usual_c} °C</th>
                    <th className="pb-1 text-right font-normal">at {brief.coldest_c} °C</th>
                  </tr>
                </thead>
                <tbody>
                  {table.rows.map((r) => (
                    <tr key={r.left_percent} className="border-line/60 border-t text-right">
                      <td className="py-0.5">{r.left_percent} %</td>
                      <td>{r.usual_v.toFixed(3)} V</td>
                      <td>{r.coldest_v.toFixed(3)} V</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
            <pre
              className="bg-well max-h-[34rem] overflow-auto rounded-md p-3 text-xs leading-relaxed"
              tabIndex={0}
              aria-label="The C header"
            >
              {table.header}
            </pre>
          </div>
        </Section>
      )}
    </Answered>
  );
}
