// What else the supply says: which rails there are with which source, how short peaks end, what being off costs.
import { Check as Tick, Minus } from "lucide-react";
import { useOpenDesign, useShown } from "../../design/store";
import { Section } from "../../ui/controls";
import { FigureButton } from "../../design/fields/figure";
import { Row } from "../../ui/row";
import { Aids } from "./Aids";

export function SupplyFacts() {
  const design = useOpenDesign();
  const shown = useShown();
  if (!shown) return null;
  const { sources, peaks, switch: off } = shown.supply;
  const part = (id: string) => design.parts.find((p) => p.id === id)?.name ?? id;
  const rail = (id: string) => design.supply.rails.find((r) => r.id === id)?.name ?? id;
  const mode = (id: string) => design.modes.find((m) => m.id === id)?.name ?? id;
  return (
    <div className="mt-4 grid gap-4 xl:grid-cols-2">
      <Section title="Switched off">
        <p className="text-soft mb-2 text-sm">
          A soft switch leaves something flowing for ever; a hard switch leaves only the cell’s own self-discharge.
        </p>
        <dl className="grid grid-cols-[1fr_auto] gap-x-3 gap-y-1">
          <Row name={`drain while ${mode(off.mode).toLowerCase()}`}>
            <FigureButton figure={off.drain} />
          </Row>
          <Row name="a full battery lasts so">
            <FigureButton figure={off.soft} />
          </Row>
          <Row name="behind a hard switch">
            <FigureButton figure={off.hard} />
          </Row>
        </dl>
      </Section>
      <Section title="Small sums" className="print:hidden">
        <p className="text-soft mb-3 text-sm">
          For the corners of a supply that are easily got wrong. Nothing here changes the gadget.
        </p>
        <div className="flex flex-wrap gap-2">
          <Aids />
        </div>
      </Section>
      {sources.length > 1 && (
        <Section title="Which rails there are" className="xl:col-span-2">
          <table className="w-full text-sm">
            <thead>
              <tr>
                <th scope="col" className="border-line border-b py-1 text-left font-medium">
                  with only
                </th>
                {design.supply.rails.map((r) => (
                  <th key={r.id} scope="col" className="border-line border-b px-2 py-1 text-left font-medium">
                    {r.name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {sources.map((s) => (
                <tr key={s.source}>
                  <th scope="row" className="py-1 text-left font-normal">
                    {s.name}
                  </th>
                  {design.supply.rails.map((r) => {
                    const on = s.rails.includes(r.id);
                    return (
                      <td key={r.id} className={`px-2 py-1 ${on ? "" : "text-soft"}`}>
                        <span className="inline-flex items-center gap-1">
                          {on ? <Tick size={14} aria-hidden /> : <Minus size={14} aria-hidden />}
                          {on ? "yes" : "no"}
                        </span>
                      </td>
                    );
                  })}
                </tr>
              ))}
            </tbody>
          </table>
        </Section>
      )}
      {peaks.length > 0 && (
        <Section title="Short peaks" className="xl:col-span-2">
          <p className="text-soft mb-2 text-sm">Each part’s send pulse, inrush or beat, at 20 % charge.</p>
          <table className="w-full text-sm">
            <thead>
              <tr>
                {["part", "while", "worst rail", "falls to", "needs", "holds", "capacitor that would hold it"].map(
                  (h) => (
                    <th key={h} scope="col" className="border-line border-b py-1 pr-2 text-left font-medium">
                      {h}
                    </th>
                  ),
                )}
              </tr>
            </thead>
            <tbody>
              {peaks.map((p) => (
                <tr key={`${p.part} ${p.mode}`} className="border-line/60 border-b">
                  <th scope="row" className="py-1 pr-2 text-left font-normal">
                    {part(p.part)}
                  </th>
                  <td className="py-1 pr-2">{mode(p.mode)}</td>
                  <td className="py-1 pr-2">{rail(p.rail)}</td>
                  <td className="py-1 pr-2">
                    <FigureButton figure={p.lowest} />
                  </td>
                  <td className="py-1 pr-2">
                    <FigureButton figure={p.needed} />
                  </td>
                  <td className={`py-1 pr-2 ${p.holds ? "" : "text-fail font-medium"}`}>{p.holds ? "yes" : "no"}</td>
                  <td className="py-1">
                    {p.capacitor.value === 0 ? "none needed" : <FigureButton figure={p.capacitor} />}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Section>
      )}
    </div>
  );
}
