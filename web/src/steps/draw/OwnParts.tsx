// Own parts from a CSV file, kept in the account's catalogue.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useId } from "react";
import { ask, client, form, type ProblemError, type Schemas } from "../../api/client";
import { Problems } from "../../pages/NewGadget";
import { INPUT } from "../../ui/controls";

export function OwnParts() {
  const queries = useQueryClient();
  const id = useId();
  const add = useMutation<Schemas["EntryOut"][], ProblemError, File>({
    mutationFn: (file) =>
      ask(
        client.POST("/api/catalogue/parts", {
          body: form({ file }) as never,
          bodySerializer: (body) => body as unknown as FormData,
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["catalogue", "part"] }),
  });
  return (
    <div className="space-y-2">
      <label htmlFor={id} className="text-soft block text-sm">
        Add parts of your own from a CSV file: name, kind, size, mass, cost, and a column per state such as “sleep [µA]”
      </label>
      <input
        id={id}
        type="file"
        accept=".csv,text/csv"
        className={INPUT}
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) add.mutate(file);
          e.target.value = "";
        }}
      />
      {add.isSuccess && <p role="status">{add.data.length} parts are in your catalogue now.</p>}
      <Problems error={add.error} />
    </div>
  );
}
