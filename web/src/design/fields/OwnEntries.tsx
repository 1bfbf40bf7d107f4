// Entries of one's own, in and out: parts and chargers as CSV, everything as JSON.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useId } from "react";
import { ask, client, form, multipart, type ProblemError, type Schemas } from "../../api/client";
import { Problems } from "../../ui/problems";
import { INPUT } from "../../ui/controls";
import { count } from "../../ui/format";

const AS_CSV: Partial<Record<Schemas["Entry"]["kind"], { what: string; href: string }>> = {
  part: {
    what: "parts as CSV (name, kind, size, mass, cost, and a column per state such as “sleep [µA]”)",
    href: "/api/catalogue/own-parts.csv",
  },
  charger: {
    what: "chargers as CSV (name, float voltage, charge current, and whatever else stands in a list saved here)",
    href: "/api/catalogue/own-chargers.csv",
  },
};

export function OwnEntries({ kind }: { kind: Schemas["Entry"]["kind"] }) {
  const csv = AS_CSV[kind];
  const queries = useQueryClient();
  const id = useId();
  const add = useMutation<Schemas["EntryOut"][], ProblemError, File>({
    mutationFn: (file) => {
      const body = form({ file });
      return file.name.toLowerCase().endsWith(".json")
        ? ask(client.POST("/api/catalogue/entries", multipart("/api/catalogue/entries", body)))
        : ask(client.POST("/api/catalogue/lists", multipart("/api/catalogue/lists", body)));
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: ["catalogue"] }),
  });
  return (
    <div className="space-y-2">
      <label htmlFor={id} className="text-soft block text-sm">
        Add entries of your own: {csv && `${csv.what}, or `}a JSON file as it is saved here
      </label>
      <input
        id={id}
        type="file"
        accept=".csv,text/csv,.json,application/json"
        className={INPUT}
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) add.mutate(file);
          e.target.value = "";
        }}
      />
      {add.isSuccess && (
        <p role="status">
          {count(add.data.length, "entry").replace("entrys", "entries")} {add.data.length === 1 ? "is" : "are"} in your
          catalogue now.
        </p>
      )}
      <Problems error={add.error} />
      <p className="text-soft text-sm">
        Save your own:{" "}
        {csv && (
          <>
            <a className="text-ink underline underline-offset-2" href={csv.href} download>
              {kind}s as CSV
            </a>
            ,{" "}
          </>
        )}
        <a className="text-ink underline underline-offset-2" href="/api/catalogue/own.json" download>
          everything as JSON
        </a>
      </p>
    </div>
  );
}
