// The course of a charge, how the current is set, and what the gadget may do meanwhile.
import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { Answered, useAnswer } from "../../design/fields/answer";
import { FigureButton } from "../../design/fields/figure";
import { FigureRows } from "../../design/fields/figureRows";
import { useDesign, useOpenDesign, useShown } from "../../design/store";
import { Choice, Section } from "../../ui/controls";
import { show } from "../../ui/format";
import { Row } from "../../ui/row";
import { ChargePicture } from "./ChargePicture";
import { ChargerSection } from "./ChargerFields";
import { PortSection } from "./PortFields";
import { SettingsPicture } from "./SettingsPicture";

const STARTS = [
  ["0", "from empty"],
  ["0.2", "from 20 %"],
  ["0.5", "from half"],
  ["0.8", "from 80 %"],
] as const;

export function ChargeView() {
  const design = useOpenDesign();
  const shown = useShown();
  const [start, setStart] = useState<(typeof STARTS)[number][0]>("0");
  const asking = useAnswer(["charge", start], (body, signal) =>
    ask(client.POST("/api/answers/charge", { body, signal, params: { query: { begins_at: Number(start) } } })),
  );
  const report = shown?.charge;
  return (
    <div className="space-y-4">
      {design.charger && (
        <Section
          title="The charge"
          aside={
            <>
              <div className="w-40">
                <Choice bare label="Plugged in" value={start} options={STARTS} onChange={setStart} />
              </div>
              {report && (
                <span className="text-[0.9375rem]">
                  full in <FigureButton figure={report.time} withRange className="font-display text-lg" />
                  <span className="text-soft ml-3">
                    80 % in <FigureButton figure={report.most_time} withRange className="text-ink" />
                  </span>
                </span>
              )}
            </>
          }
        >
          <Answered
            asking={asking}
            waiting="Charging it"
            nothing="This charger is not one for these cells, so there is no charge to draw. The findings say why."
            room="min-h-96"
          >
            {(answer) => (
              <>
                {answer.why && <p className="text-fail mb-1 font-medium">{answer.why}</p>}
                {answer.course.time_s.length > 1 && <ChargePicture answer={answer} />}
              </>
            )}
          </Answered>
          {report && <p className="text-soft mt-2 text-[0.9375rem]">{report.alone}</p>}
        </Section>
      )}
      {!design.charger && shown?.swap && (
        <Section
          title="Swapping the cells"
          aside={
            <span className="text-[0.9375rem]">
              <FigureButton figure={shown.swap.sets} withRange className="font-display text-lg" /> sets a year
            </span>
          }
        >
          <p className="max-w-prose">{shown.swap.sentence}</p>
          <div className="mt-3 max-w-sm">
            <FigureRows figures={[shown.swap.cost, shown.swap.mass, shown.swap.outside]} />
          </div>
        </Section>
      )}
      <div className="grid items-start gap-4 xl:grid-cols-2">
        <div className="space-y-4">
          <ChargerSection />
          {design.charger && <PortSection />}
        </div>
        {design.charger && (
          <div className="space-y-4">
            {report && (
              <Section title="What comes of it">
                <dl className="grid grid-cols-2 gap-x-3 gap-y-1">
                  {(
                    [
                      ["charge current", report.current],
                      ["recommended current", report.gentle_current],
                      ["most for this battery", report.highest_current],
                      ["float voltage over all cells", report.float_voltage],
                      ["most on the cable", report.on_the_cable],
                      ["heat in the charger", report.heat],
                      ["its junction at the hottest", shown?.heat.charger],
                      ["air inside at the hottest", shown?.heat.charging],
                      ["ten minutes give back", report.regained],
                      ["from the wall, each time", report.wall_energy],
                      ["taken when unplugged", report.unplugged],
                      ["kept above while plugged in", report.kept_above],
                    ] as const
                  ).map(
                    ([name, figure]) =>
                      figure && (
                        <Row key={name} name={name}>
                          <FigureButton figure={figure} />
                        </Row>
                      ),
                  )}
                </dl>
              </Section>
            )}
            {asking.data && (
              <>
                <Section title="How the current is set">
                  <SettingsPicture settings={asking.data.settings} />
                </Section>
                <Loads rows={asking.data.loads} />
                {asking.data.solar && <Solar solar={asking.data.solar} />}
              </>
            )}
          </div>
        )}
      </div>
    </div>
  );
}

function Loads({ rows }: { rows: Schemas["LoadRow"][] }) {
  const { charger, day } = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const chosen = charger?.mode ?? day.rest;
  return (
    <Section title="With the gadget meanwhile …">
      <table className="w-full text-[0.9375rem]">
        <thead className="text-soft text-sm">
          <tr>
            <th className="pb-1 text-left font-normal">mode</th>
            <th className="pb-1 text-right font-normal">from the cell</th>
            <th className="pb-1 text-right font-normal">80 %</th>
            <th className="pb-1 text-right font-normal">full</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.mode} className="border-line/60 border-t">
              <td className="pr-2">
                <label className="flex min-h-8 items-center gap-2">
                  <input
                    type="radio"
                    name="charging-mode"
                    className="size-6 shrink-0 accent-(--ink)"
                    checked={r.mode === chosen}
                    onChange={() =>
                      edit("The mode it charges in", (d) => {
                        if (d.charger) d.charger.mode = r.mode;
                      })
                    }
                  />
                  {r.name.toLowerCase()}
                </label>
              </td>
              <td className="py-1 text-right tabular-nums">{show(r.load_a, "A")}</td>
              <td className="py-1 pl-2 text-right tabular-nums">{show(r.most_hours, "h")}</td>
              <td className="py-1 pl-2 text-right tabular-nums">
                {r.hours === null ? <span className="text-fail">{r.why}</span> : show(r.hours, "h")}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}

function Solar({ solar }: { solar: Schemas["SolarAnswer"] }) {
  return (
    <Section title="The panel">
      <p className="mb-2">{solar.sentence}</p>
      <FigureRows figures={[solar.energy, solar.needed, solar.sun_hours, solar.autonomy]} />
    </Section>
  );
}
