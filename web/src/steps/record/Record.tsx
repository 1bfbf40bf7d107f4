// Record: what was decided and why, every revision, variants side by side, the bill of materials, files.
import { Boxes, CalendarDays, Download, FileText } from "lucide-react";
import { Link } from "react-router";
import { StepPage } from "../../shell/StepPage";
import { useDesign, useShown } from "../../design/store";
import { PILL, Section } from "../../ui/controls";
import { FigureButton } from "../../design/fields/figure";
import { show } from "../../ui/format";
import { Decisions } from "./Decisions";
import { Notes, Timeline } from "./Notes";
import { Revisions } from "./Revisions";
import { Share } from "./Share";
import { Variants } from "./Variants";

export function Record() {
  return (
    <StepPage step="record">
      <div className="grid items-start gap-4 xl:grid-cols-2">
        <div className="space-y-4">
          <Variants />
          <Revisions />
          <Share />
          <Timeline />
        </div>
        <div className="space-y-4">
          <Decisions />
          <Notes />
          <Bill />
          <Cautions />
        </div>
      </div>
    </StepPage>
  );
}

/** All of them, whoever took note of them. */
function Cautions() {
  const cautions = useShown()?.battery.cautions;
  if (!cautions) return null;
  return (
    <Section title="Cautions">
      <ul className="space-y-2 text-[0.9375rem]">
        {cautions.map((c) => (
          <li key={c.key}>
            {c.text}
            {c.reason && <span className="text-soft"> Taken note of: {c.reason}</span>}
          </li>
        ))}
      </ul>
    </Section>
  );
}

function Bill() {
  const totals = useShown()?.totals;
  const variant = useDesign((s) => s.variant);
  const currency = useDesign((s) => s.design?.brief.currency ?? "");
  if (!totals || !variant) return null;
  return (
    <Section
      title="Bill of materials"
      aside={
        <>
          <Link className={PILL} to={`/gadgets/${variant.id}/report`}>
            <FileText size={14} aria-hidden /> Report
          </Link>
          <Link className={PILL} to={`/gadgets/${variant.id}/bill`}>
            <Boxes size={14} aria-hidden /> For many
          </Link>
          <Link className={PILL} to={`/gadgets/${variant.id}/plan`}>
            <CalendarDays size={14} aria-hidden /> Build plan
          </Link>
          <a className={PILL} href={`/api/variants/${variant.id}/bill.csv`} download>
            <Download size={14} aria-hidden /> CSV
          </a>
          <a className={PILL} href={`/api/variants/${variant.id}/design.json`} download>
            <Download size={14} aria-hidden /> The whole design, JSON
          </a>
        </>
      }
    >
      <table className="w-full text-[0.9375rem] [&_td+td]:pl-3 [&_td+td]:whitespace-nowrap [&_th+th]:pl-3">
        <thead className="text-soft text-sm">
          <tr>
            <th className="pb-1 text-left font-normal">Item</th>
            <th className="pb-1 text-right font-normal">Quantity</th>
            <th className="pb-1 text-right font-normal">Mass</th>
            <th className="pb-1 text-right font-normal">Cost</th>
          </tr>
        </thead>
        <tbody>
          {totals.bill.map((line) => (
            <tr key={`${line.where} ${line.name}`} className="border-line/60 border-t">
              <td className="py-0.5">{line.name}</td>
              <td className="py-0.5 text-right">{line.quantity}</td>
              <td className="py-0.5 text-right">{line.small ? "" : show(line.mass_g, "g")}</td>
              <td className="py-0.5 text-right">{line.small ? "" : show(line.cost, currency)}</td>
            </tr>
          ))}
        </tbody>
        <tfoot>
          <tr className="border-line border-t-2 font-semibold">
            <td className="py-1">In all</td>
            <td />
            <td className="py-1 text-right">
              <FigureButton figure={totals.mass} />
            </td>
            <td className="py-1 text-right">
              <FigureButton figure={totals.cost} />
            </td>
          </tr>
        </tfoot>
      </table>
    </Section>
  );
}
