// Another way to a new gadget: empty, from a parts list, or from a design document.
import { useId, useState, type FormEvent } from "react";
import { useNavigate } from "react-router";
import { Problems } from "../ui/problems";
import { useNewGadget, type NewGadget as Wanted } from "../api/queries";
import { Button, INPUT, Labelled } from "../ui/controls";
import { Dialog } from "../ui/dialog";

type Way = "nothing" | "parts" | "document";

const WAYS: readonly [Way, string, string][] = [
  ["nothing", "Empty", "A pouch cell, a regulator and two modes to begin with."],
  [
    "parts",
    "From a parts list",
    "CSV with the columns name, quantity, rail, kind, size, mass, cost; every other column is a state with its current, such as “sleep [µA]” or “active [mA]”.",
  ],
  ["document", "From a design document", "JSON as Record exports it."],
];

export function NewGadget({ open, onOpenChange }: { open: boolean; onOpenChange: (o: boolean) => void }) {
  const [from, setFrom] = useState<Way>("nothing");
  const [name, setName] = useState("");
  const [file, setFile] = useState<File | null>(null);
  const create = useNewGadget();
  const navigate = useNavigate();
  const nameId = useId();
  const fileId = useId();
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const wanted: Wanted | null =
      from === "nothing" ? { from, name } : !file ? null : from === "parts" ? { from, name, file } : { from, file };
    if (wanted)
      create.mutate(wanted, {
        onSuccess: (project) => navigate(`/gadgets/${project.variants[0]?.id}/draw`),
      });
  };
  const ready = (from === "document" || name.trim() !== "") && (from === "nothing" || file !== null);
  return (
    <Dialog title="Empty or from a file" open={open} onOpenChange={onOpenChange}>
      <form onSubmit={submit} className="space-y-4">
        <fieldset className="space-y-2">
          <legend className="sr-only">Begin with</legend>
          {WAYS.map(([key, title, text]) => (
            <label
              key={key}
              className="border-line has-checked:border-ink has-checked:bg-well/50 flex cursor-pointer gap-3 rounded-md border p-3"
            >
              <input
                type="radio"
                name="from"
                checked={from === key}
                onChange={() => {
                  setFrom(key);
                  create.reset();
                }}
                className="mt-1 accent-(--ink)"
              />
              <span>
                <span className="block font-medium">{title}</span>
                <span className="text-soft block text-sm">{text}</span>
              </span>
            </label>
          ))}
        </fieldset>
        {from !== "document" && (
          <Labelled id={nameId} label="Name">
            <input
              id={nameId}
              data-first
              className={INPUT}
              value={name}
              maxLength={120}
              onChange={(e) => setName(e.target.value)}
              placeholder="What is it called?"
            />
          </Labelled>
        )}
        {from !== "nothing" && (
          <Labelled id={fileId} label={from === "parts" ? "Parts list (CSV)" : "Design document (JSON)"}>
            <input
              id={fileId}
              type="file"
              accept={from === "parts" ? ".csv,text/csv" : ".json,application/json"}
              className={INPUT}
              onChange={(e) => {
                setFile(e.target.files?.[0] ?? null);
                create.reset();
              }}
            />
          </Labelled>
        )}
        <Problems error={create.error} />
        <Button type="submit" kind="strong" disabled={!ready} busy={create.isPending}>
          Make it
        </Button>
      </form>
    </Dialog>
  );
}
