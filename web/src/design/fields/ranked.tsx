// Things in a ranked table: those that do not suit say why, each can be taken.
import { Fragment, useState } from "react";
import type { Figure, Remedy } from "../types";
import { Explain } from "../../ui/terms";
import { Button } from "../../ui/controls";
import { FigureButton } from "./figure";

type Ranked = {
  /** false: it only looks so, and can't be taken yet */
  tried?: boolean;
  fits: boolean;
  now: boolean;
  /** tells things of one name apart */
  position?: number | null;
  reasons: string[];
  marks: string[];
  remedy: Remedy;
  keep?: Remedy | null;
};

/** The whole sentence behind the marks of a row: why it is out, or what comes of it. */
const whole = (row: Ranked) => (row.fits ? row.remedy.outcome : row.reasons.map((r) => `${r}.`).join(" "));

/** The marks that all rows bear: said once above them. */
export function shared(rows: readonly Ranked[]): string[] {
  const others = rows.filter((r) => !r.now);
  return others.length < 3 ? [] : others[0]!.marks.filter((m) => others.every((r) => r.marks.includes(m)));
}

export function RankedTable<Row extends Ranked>({
  label,
  what,
  rows,
  columns,
  name,
  use,
  keep,
}: {
  label: string;
  what: string;
  rows: Row[];
  /** (key of a figure of the row, heading); the first is shown with its range */
  columns: readonly (readonly [keyof Row & string, string])[];
  name: (row: Row) => string;
  use: (remedy: Remedy) => void;
  /** keeps a row's thing beside the present one, where it can be */
  keep?: (remedy: Remedy) => void;
}) {
  const [open, setOpen] = useState<string | null>(null);
  const common = shared(rows);
  return (
    <div className="mt-1 overflow-x-auto" role="region" aria-label={label} tabIndex={0}>
      {common.length > 0 && <p className="text-soft text-sm">Each of them: {common.join(" · ")}</p>}
      <table className="w-full text-sm">
        <thead>
          <tr>
            <th scope="col" className="border-line border-b py-1 pr-2 text-left font-medium">
              {what}
            </th>
            {columns.map(([key, heading]) => (
              <th key={key} scope="col" className="border-line border-b px-2 py-1 text-right font-medium">
                <span className="inline-flex items-center justify-end gap-0.5">
                  {heading} <Explain label={heading} field={`${label} ${key}`} />
                </span>
              </th>
            ))}
            <td className="border-line border-b" />
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => {
            const key = `${name(row)} ${row.now} ${row.position}`;
            const marks = row.marks.filter((m) => !common.includes(m));
            const shown = open === key;
            return (
              <Fragment key={key}>
                <tr className={`border-line/60 ${shown ? "" : "border-b"} ${row.fits ? "" : "text-soft"}`}>
                  <th scope="row" className="max-w-72 py-1.5 pr-2 text-left font-normal">
                    {name(row)}
                    {row.now && <span className="text-soft"> (now)</span>}
                    {(marks.length > 0 || (whole(row) && !row.now)) && (
                      <button
                        type="button"
                        aria-expanded={shown}
                        aria-label={`${name(row)}: ${marks.join(", ") || "what comes of it"}`}
                        className="block min-h-6 text-left text-xs underline-offset-2 hover:underline"
                        onClick={() => setOpen(shown ? null : key)}
                      >
                        {marks.map((m) => (
                          <span
                            key={m}
                            className={`${row.fits ? "text-watch" : "text-fail"} after:content-['_·_'] last-of-type:after:content-none`}
                          >
                            {m}
                          </span>
                        ))}
                        {!marks.length && <span className="text-soft">what comes of it</span>}
                      </button>
                    )}
                  </th>
                  {columns.map(([key], i) => (
                    <td key={key} className="px-2 py-1.5 text-right whitespace-nowrap">
                      <FigureButton figure={row[key] as Figure} withRange={i === 0 && row.fits} />
                    </td>
                  ))}
                  <td className="py-1">
                    <div className="flex flex-col items-end justify-end gap-1 sm:flex-row">
                      {keep && row.keep && (
                        <Button kind="quiet" aria-label={`Keep ${name(row)} beside`} onClick={() => keep(row.keep!)}>
                          Keep
                        </Button>
                      )}
                      {!row.now && (
                        <Button
                          disabled={!row.fits || row.tried === false}
                          aria-label={`Use ${name(row)}`}
                          onClick={() => use(row.remedy)}
                        >
                          Use
                        </Button>
                      )}
                    </div>
                  </td>
                </tr>
                {shown && (
                  <tr className="border-line/60 border-b">
                    <td colSpan={columns.length + 2} className="text-soft pr-2 pb-1.5 text-xs">
                      {whole(row)}
                    </td>
                  </tr>
                )}
              </Fragment>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
