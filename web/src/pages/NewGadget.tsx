// Another way to a new gadget: empty, from a table of parts, or from a design document.
import { useId, useState, type FormEvent } from "react";
import { useNavigate } from "react-router";
import { Problems } from "../ui/problems";
import { useNewGadget, type NewGadget as Wanted } from "../api/queries";
import { Button, INPUT, Labelled } from "../ui/controls";
import { Dialog } from "../ui/dialog";
import { TableReader, useTableReader } from "../tables/TableReader";

type Way = "nothing" | "parts" | "document";

const WAYS: readonly [Way, string, string][] = [
  ["nothing", "Empty", "A pouch cell, a regulator and two modes to begin with."],
  [
    "parts",
    "From a table of parts",
    "A workbook, CSV or what you paste: its columns are recognised and shown before anything is made.",
  ],
  ["document", "From a design document", "JSON as Record exports it."],
];

export function NewGadget({
  open,
  onOpenChange,
  dropped,
}: {
  open: boolean;
  onOpenChange: (o: boolean) => void;
  dropped?: File | null;
}) {
  return (
    <Dialog title="Empty or from a file" open={open} onOpenChange={onOpenChange} wide>
      <Ways dropped={dropped ?? null} />
    </Dialog>
  );
}

function Ways({ dropped }: { dropped: File | null }) {
  const [from, setFrom] = useState<Way>(dropped ? "parts" : "nothing");
  const reader = useTableReader(dropped);
  const [name, setName] = useState("");
  const [file, setFile] = useState<File | null>(null);
  const create = useNewGadget();
  const navigate = useNavigate();
  const nameId = useId();
  const fileId = useId();
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const wanted: Wanted | null =
      from === "nothing"
        ? { from, name }
        : from === "parts"
          ? reader.asked && { from, name, table: reader.asked }
          : file && { from, file };
    if (wanted)
      create.mutate(wanted, {
        onSuccess: (project) => navigate(`/gadgets/${project.variants[0]?.id}/draw`),
      });
  };
  const named = name.trim() !== "";
  const ready = from === "document" ? file !== null : named && (from === "nothing" || reader.settled);
  return (
    <form onSubmit={submit} className="space-y-4">
      <fieldset className="grid gap-2 sm:grid-cols-3">
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
      {from === "parts" && <TableReader reader={reader} />}
      {from === "document" && (
        <Labelled id={fileId} label="Design document (JSON)">
          <input
            id={fileId}
            type="file"
            accept=".json,application/json"
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
  );
}
