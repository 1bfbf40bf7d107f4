// A picture with its data beneath: every drawing can be read as a table and saved as CSV and SVG.
import { useRef, useState, type ReactNode } from "react";
import { Button } from "./controls";
import { Words } from "./terms";
import { saveCsv, saveSvg, type Table } from "./download";

export function Picture({
  name,
  title,
  table,
  children,
  label,
  drawn = true,
  words = [],
}: {
  name: string;
  title?: ReactNode;
  /** what the picture shows, for those who cannot see it */
  label: string;
  table: Table;
  children: ReactNode;
  /** whether there is a drawing that can be saved */
  drawn?: boolean;
  /** keys of the terms that it shows, each explained beneath it */
  words?: readonly string[];
}) {
  const holder = useRef<HTMLDivElement>(null);
  const [asTable, setAsTable] = useState(false);
  return (
    <figure>
      <div className="mb-1 flex flex-wrap items-center justify-between gap-2">
        <figcaption className="text-soft text-sm">{title}</figcaption>
        <div className="flex gap-1 text-sm print:hidden">
          <Button kind="quiet" aria-pressed={asTable} onClick={() => setAsTable(!asTable)}>
            {asTable ? "Picture" : "Table"}
          </Button>
          <Button kind="quiet" onClick={() => saveCsv(table, name)}>
            Save CSV
          </Button>
          {drawn && (
            <Button
              kind="quiet"
              disabled={asTable}
              onClick={() => {
                const svg = holder.current?.querySelector("svg");
                if (svg) saveSvg(svg, name);
              }}
            >
              Save SVG
            </Button>
          )}
        </div>
      </div>
      {asTable ? (
        <div className="max-h-80 overflow-auto" role="region" aria-label={`${label}, as a table`} tabIndex={0}>
          <table className="w-full text-sm">
            <thead>
              <tr>
                {table.head.map((h) => (
                  <th key={h} scope="col" className="border-line border-b px-2 py-1 text-left font-medium">
                    {h}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {table.rows.map((row, i) => (
                <tr key={i} className="border-line/60 border-b">
                  {row.map((cell, j) => (
                    <td key={j} className="px-2 py-1">
                      {typeof cell === "number" ? Number(cell.toPrecision(5)) : cell}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ) : (
        <div ref={holder} {...(drawn && { role: "img", "aria-label": label })}>
          {children}
        </div>
      )}
      <Words of={words} field={name} />
    </figure>
  );
}
