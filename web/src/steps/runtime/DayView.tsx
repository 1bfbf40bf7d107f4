// The day: by the clock, as rules, and what it does to the battery.
import { useOpenDesign, useShown } from "../../design/store";
import { Section } from "../../ui/controls";
import { FigureButton } from "../../design/fields/figure";
import { show } from "../../ui/format";
import { ClockStrip } from "./ClockStrip";
import { DayEditor } from "./DayEditor";
import { DayTrace } from "./DayTrace";

export function DayView() {
  return (
    <div className="space-y-4">
      <Section title="A day in its life">
        <ClockStrip />
        <Shares />
        <div className="mt-4">
          <DayEditor />
        </div>
      </Section>
      <div className="grid items-start gap-4 xl:grid-cols-2">
        <Section title="The average day and the worst one">
          <Kinds />
        </Section>
        <Section title="One day at the battery">
          <DayTrace />
        </Section>
      </div>
    </div>
  );
}

const SHADES = ["100%", "70%", "45%", "28%", "85%", "58%"];

/** Time on top, charge below: what is short in time may be long in charge. */
function Shares() {
  const design = useOpenDesign();
  const shown = useShown();
  if (!shown || !design.parts.length) return null;
  const rows = shown.draw.modes
    .map((m, i) => ({
      id: m.mode,
      name: design.modes.find((x) => x.id === m.mode)?.name ?? m.mode,
      time: m.day_share,
      charge: m.charge_share,
      colour:
        m.mode === design.day.rest
          ? "var(--well)"
          : `color-mix(in srgb, var(--ember) ${SHADES[i % SHADES.length]}, var(--sheet))`,
    }))
    .filter((r) => r.time > 0);
  return (
    <div className="mt-3 space-y-1">
      {(["time", "charge"] as const).map((what) => (
        <div key={what} className="grid grid-cols-[3.5rem_1fr] items-center gap-2">
          <span className="text-soft text-sm">{what}</span>
          <div className="border-line flex h-6 overflow-hidden rounded-md border">
            {rows.map((r) => (
              <span
                key={r.id}
                title={`${r.name}: ${show(r[what], "share")} of the ${what}`}
                style={{ width: `${r[what] * 100}%`, background: r.colour }}
                className={`border-sheet overflow-hidden text-xs leading-6 whitespace-nowrap ${r[what] > 0.09 ? "border-r px-1.5 last:border-r-0" : ""}`}
              >
                {r[what] > 0.09 ? r.name : ""}
              </span>
            ))}
          </div>
        </div>
      ))}
      <ul className="text-soft flex flex-wrap gap-x-5 gap-y-0.5 pt-1 text-sm">
        {rows.map((r) => (
          <li key={r.id} className="flex items-center gap-1.5">
            <span className="border-line size-3 rounded-sm border" style={{ background: r.colour }} aria-hidden />
            <span className="text-ink">{r.name}</span> {show(r.time, "share")} of the time, {show(r.charge, "share")} of
            the charge
          </li>
        ))}
      </ul>
    </div>
  );
}

function Kinds() {
  const shown = useShown();
  if (!shown) return null;
  const { day } = shown;
  const same = day.worst.mean.value === day.average.mean.value;
  const rows = [day.average, ...(same ? [] : [day.worst]), ...(day.kinds.length > 1 ? day.kinds : [])];
  return (
    <>
      <p className="mb-2">{day.sentence}</p>
      <table className="w-full text-[0.9375rem]">
        <thead className="text-soft text-sm">
          <tr>
            <th className="pb-1 text-left font-normal">Day</th>
            <th className="pb-1 text-right font-normal">Of the year</th>
            <th className="pb-1 text-right font-normal">Mean current</th>
            <th className="pb-1 text-right font-normal">If all were so</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r, i) => (
            <tr key={`${i}${r.name}`} className="border-line/60 border-t">
              <th scope="row" className="py-1 text-left font-normal">
                {r.name}
              </th>
              <td className="text-right">
                {i < 2 && day.kinds.length < 2 ? "" : i === 0 ? "" : show(r.share, "share")}
              </td>
              <td className="text-right">
                <FigureButton figure={r.mean} />
              </td>
              <td className="text-right">
                <FigureButton figure={r.lasts} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
