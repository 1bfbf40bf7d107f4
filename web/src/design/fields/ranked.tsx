// Things in a ranked table: those that do not suit say why, each can be taken.
import { Fragment } from "react";
import type { Figure, Remedy } from "../types";
import { Button } from "../../ui/controls";
import { FigureButton } from "./figure";

type Ranked = { fits: boolean; now: boolean; reasons: string[]; remedy: Remedy };

/** Whether a row says what comes of it. */
const told = (row: Ranked) => row.fits && Boolean(row.remedy.outcome);

export function RankedTable<Row extends Ranked>({
  label,
  what,
  rows,
  columns,
  name,
  use,
}: {
  label: string;
  what: string;
  rows: Row[];
  /** (key of a figure of the row, heading); the first is shown with its range */
  columns: readonly (readonly [keyof Row & string, string])[];
  name: (row: Row) => string;
  use: (remedy: Remedy) => void;
}) {
  return (
    <div className="mt-1 overflow-x-auto" role="region" aria-label={label} tabIndex={0}>
      <table className="w-full text-sm">
        <thead>
          <tr>
            <th scope="col" className="border-line border-b py-1 pr-2 text-left font-medium">
              {what}
            </th>
            {columns.map(([key, heading]) => (
              <th key={key} scope="col" className="border-line border-b px-2 py-1 text-right font-medium">
                {heading}
              </th>
            ))}
            <td className="border-line border-b" />
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <Fragment key={`${name(row)} ${row.now}`}>
              <tr className={`border-line/60 ${told(row) ? "" : "border-b"} ${row.fits ? "" : "text-soft"}`}>
                <th scope="row" className="max-w-72 py-1.5 pr-2 text-left font-normal">
                  {name(row)}
                  {row.now && <span className="text-soft"> (now)</span>}
                  {!row.fits && <span className="text-fail block text-xs">{row.reasons.join("; ")}</span>}
                </th>
                {columns.map(([key], i) => (
                  <td key={key} className="px-2 py-1.5 text-right whitespace-nowrap">
                    <FigureButton figure={row[key] as Figure} withRange={i === 0 && row.fits} />
                  </td>
                ))}
                <td className="py-1 text-right">
                  {!row.now && (
                    <Button disabled={!row.fits} aria-label={`Use ${name(row)}`} onClick={() => use(row.remedy)}>
                      Use
                    </Button>
                  )}
                </td>
              </tr>
              {told(row) && (
                <tr className="border-line/60 border-b">
                  <td colSpan={columns.length + 2} className="text-soft pr-2 pb-1.5 text-xs">
                    {row.remedy.outcome}
                  </td>
                </tr>
              )}
            </Fragment>
          ))}
        </tbody>
      </table>
    </div>
  );
}
