// A table of parts from a workbook, a text file or the clipboard: what each column is taken for, to be corrected, and what it comes to.
import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useId, useState } from "react";
import { ask, client, form, multipart, type Schemas } from "../api/client";
import { StatusMark } from "../design/fields/status";
import { Button, Choice, INPUT, Labelled } from "../ui/controls";
import { count } from "../ui/format";
import { Problems } from "../ui/problems";

type Table = Schemas["Table"];
type Picked = Schemas["Picked"];
export type PartsTable = Schemas["PartsTable"];
export type PartsRead = Schemas["PartsRead"];

const ROLES: readonly (readonly [NonNullable<Picked["role"]>, string])[] = [
  ["", "not read"],
  ["name", "its name"],
  ["state", "a state’s draw"],
  ["quantity", "how many"],
  ["rail", "its rail"],
  ["kind", "what kind"],
  ["size", "its size"],
  ["mass", "mass of one"],
  ["cost", "cost of one"],
  ["min supply", "least supply"],
  ["max supply", "most supply"],
];
const SHOWN = 60; // rows

/** A table while it is read: which one, its columns as they are agreed to, and what it comes to. `first`: a file to begin with. */
export function useTableReader(first: File | null = null) {
  const [tables, setTables] = useState<readonly Table[]>([]);
  const [chosen, setChosen] = useState(0);
  const [columns, setColumns] = useState<Picked[]>([]);
  const [leftOut, setLeftOut] = useState<number[]>([]);
  const choose = (found: readonly Table[], index: number) => {
    setTables(found);
    setChosen(index);
    setColumns(found[index]?.columns ?? []);
    setLeftOut([]);
  };
  const reading = useMutation<Table[], Error, File | string>({
    mutationFn: (from) =>
      typeof from === "string"
        ? ask(client.POST("/api/tables/pasted", { body: { text: from } }))
        : ask(client.POST("/api/tables/read", multipart("/api/tables/read", form({ file: from })))),
    onSuccess: (found) => choose(found, 0),
    onError: () => choose([], 0),
  });
  const { mutate } = reading;
  useEffect(() => {
    if (first) mutate(first);
  }, [first, mutate]);
  const table = tables[chosen];
  const asked: PartsTable | null = table
    ? { columns, rows: table.rows, numbers: table.numbers, left_out: leftOut }
    : null;
  const parts = useQuery({
    queryKey: ["table", asked],
    queryFn: ({ signal }) => ask(client.POST("/api/tables/parts", { body: asked!, signal })),
    enabled: asked !== null,
    placeholderData: (before) => before,
    staleTime: Infinity,
  });
  const read = asked && !parts.isPlaceholderData ? (parts.data ?? null) : null;
  return {
    reading,
    tables,
    chosen,
    table,
    columns,
    leftOut,
    read,
    choose,
    setColumns,
    setLeftOut,
    asked,
    settled: read !== null && !read.problems.length && read.parts.length > 0,
  };
}

export function TableReader({ reader }: { reader: ReturnType<typeof useTableReader> }) {
  const { reading, tables, chosen, table, columns, leftOut, read, choose, setColumns, setLeftOut } = reader;
  const [pasted, setPasted] = useState("");
  const fileId = useId();
  const textId = useId();
  return (
    <div className="space-y-3">
      <div className="grid gap-3 sm:grid-cols-2">
        <Labelled id={fileId} label="Its file (XLSX, ODS, XLS, CSV, TSV)">
          <input
            id={fileId}
            type="file"
            accept=".xlsx,.xlsm,.xlsb,.xls,.ods,.csv,.tsv,.txt"
            className={INPUT}
            onChange={(e) => {
              const file = e.target.files?.[0];
              if (file) reading.mutate(file);
            }}
          />
        </Labelled>
        <Labelled id={textId} label="Or paste it here, with its headings">
          <div className="flex gap-2">
            <textarea
              id={textId}
              rows={1}
              className={INPUT}
              value={pasted}
              onChange={(e) => setPasted(e.target.value)}
              onPaste={(e) => {
                const text = e.clipboardData.getData("text/plain");
                if (!pasted && text.includes("\n")) reading.mutate(text);
              }}
            />
            <Button className="shrink-0" disabled={!pasted.trim()} onClick={() => reading.mutate(pasted)}>
              Read it
            </Button>
          </div>
        </Labelled>
      </div>
      <Problems error={reading.error} />
      {reading.isPending && <p role="status">Reading the table</p>}
      {tables.length > 1 && (
        <Choice
          label="Which table"
          value={String(chosen)}
          options={tables.map((t, i) => [
            String(i),
            `${t.sheet || "the text"}${t.hidden ? " (hidden sheet)" : ""}, from row ${t.numbers[0]}: ${count(t.rows.length, "row")}`,
          ])}
          onChange={(index) => choose(tables, Number(index))}
        />
      )}
      {table && (
        <>
          <Columns
            table={table}
            columns={columns}
            leftOut={leftOut}
            problems={read?.problems ?? []}
            onColumns={setColumns}
            onLeftOut={setLeftOut}
          />
          <p role="status" className="text-sm">
            {read ? `${count(read.parts.length, "part")} read` : "Reading the parts"}
            {read && !!read.problems.length && `, ${count(read.problems.length, "cell")} to settle`}
          </p>
          <ul className="text-soft text-sm">
            {[...table.notes, ...(read?.notes ?? [])].map((note) => (
              <li key={note}>{note}</li>
            ))}
          </ul>
          {read && !!read.problems.length && (
            <ul
              role="alert"
              className="border-fail/50 bg-fail/5 max-h-36 overflow-y-auto rounded-md border p-3 text-sm"
            >
              {read.problems.map((p) => (
                <li key={p.path + p.message}>
                  {p.path && <span className="font-medium">{p.path}: </span>}
                  {p.message}
                </li>
              ))}
            </ul>
          )}
        </>
      )}
    </div>
  );
}

function Columns({
  table,
  columns,
  leftOut,
  problems,
  onColumns,
  onLeftOut,
}: {
  table: Table;
  columns: readonly Picked[];
  leftOut: readonly number[];
  problems: PartsRead["problems"];
  onColumns: (columns: Picked[]) => void;
  onLeftOut: (rows: number[]) => void;
}) {
  const change = (k: number, by: Partial<Picked>) =>
    onColumns(columns.map((c, i) => (i === k ? { ...c, ...by, sure: true } : c)));
  const wrong = new Set(problems.map((p) => p.path));
  return (
    <div className="border-line max-h-80 overflow-auto rounded-md border">
      <table className="text-sm">
        <thead className="bg-well sticky top-0 z-10 text-left align-top">
          <tr>
            <th scope="col" className="text-soft px-2 py-1 font-normal">
              Row
            </th>
            {columns.map((c, k) => (
              <th key={k} scope="col" className="min-w-36 px-2 py-1 font-normal">
                <span className="flex items-center gap-1 font-medium">
                  {!c.sure && <StatusMark status="watch" size={12} />}
                  <span className="truncate">{c.heading}</span>
                  {!c.sure && <span className="text-soft font-normal">please check</span>}
                </span>
                <Choice
                  label={`Column ${c.heading} is`}
                  bare
                  value={c.role ?? ""}
                  options={ROLES}
                  onChange={(role) => change(k, { role, state: role === "state" ? c.state || c.heading : "" })}
                />
                {c.role && !["name", "quantity", "rail", "kind"].includes(c.role) && (
                  <span className="mt-1 flex gap-1">
                    {c.role === "state" && (
                      <input
                        className={INPUT}
                        aria-label={`Name of the state in ${c.heading}`}
                        value={c.state}
                        maxLength={120}
                        onChange={(e) => change(k, { state: e.target.value })}
                      />
                    )}
                    <input
                      className={c.role === "state" ? `${INPUT} max-w-14` : INPUT}
                      aria-label={`Unit of ${c.heading}`}
                      placeholder="unit"
                      value={c.unit ?? ""}
                      maxLength={20}
                      onChange={(e) => change(k, { unit: e.target.value.trim() || null })}
                    />
                  </span>
                )}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {table.rows.slice(0, SHOWN).map((row, i) => {
            const number = table.numbers[i]!;
            const out = leftOut.includes(number);
            return (
              <tr key={number} className={`border-line/60 border-t ${out ? "text-soft line-through" : ""}`}>
                <td className="px-2 py-0.5">
                  <label className="text-soft flex items-center gap-1">
                    <input
                      type="checkbox"
                      checked={!out}
                      aria-label={`Take row ${number}`}
                      className="accent-(--ink)"
                      onChange={() => onLeftOut(out ? leftOut.filter((n) => n !== number) : [...leftOut, number])}
                    />
                    {number}
                  </label>
                </td>
                {row.map((cell, k) => {
                  const bad = wrong.has(`row ${number}, ${columns[k]?.heading}`);
                  return (
                    <td
                      key={k}
                      className={`max-w-56 truncate px-2 py-0.5 ${bad ? "text-fail bg-fail/10 font-medium" : columns[k]?.role ? "" : "text-soft"}`}
                    >
                      {cell}
                    </td>
                  );
                })}
              </tr>
            );
          })}
        </tbody>
      </table>
      {table.rows.length > SHOWN && (
        <p className="text-soft px-2 py-1 text-sm">and {table.rows.length - SHOWN} more rows, read like these</p>
      )}
    </div>
  );
}
