// Choosing from the catalogue: search, the figures that matter, one press to take it.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { BookmarkPlus, Plus, Trash2 } from "lucide-react";
import { useDeferredValue, useId, useState, type ReactNode } from "react";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import { catalogueOf, useCatalogue } from "../../api/queries";
import { Button, IconButton, INPUT } from "../../ui/controls";
import { actions } from "../store";
import type { Part, Stage } from "../types";
import { Dialog } from "../../ui/dialog";

type Picker = {
  kind: Schemas["Entry"]["kind"];
  onOpenChange: (open: boolean) => void;
  describe: (entry: Schemas["Entry"]) => string;
  choose: (entry: Schemas["Entry"]) => void;
  accept?: (entry: Schemas["Entry"]) => boolean;
  /** makes one of one's own, under the name that was typed */
  make?: (name: string) => void;
  header?: ReactNode;
  footer?: ReactNode;
};

export function CatalogueDialog({ title, open, ...picker }: Picker & { title: string; open: boolean }) {
  return (
    <Dialog title={title} open={open} onOpenChange={picker.onOpenChange} wide>
      <Picking {...picker} />
    </Dialog>
  );
}

function Picking({ kind, onOpenChange, describe, choose, accept = () => true, make, header, footer }: Picker) {
  const [text, setText] = useState("");
  const [group, setGroup] = useState("");
  const id = useId();
  const typed = useDeferredValue(text);
  const catalogue = useCatalogue(kind, typed.trim());
  const queries = useQueryClient();
  const forget = useMutation({
    mutationFn: (entry: number) =>
      client.DELETE("/api/catalogue/{entry_id}", { params: { path: { entry_id: entry } } }),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["catalogue", kind] }),
  });
  const offered = (catalogue.data ?? []).filter(({ entry }) => accept(entry));
  const groups = [...new Set(offered.map(({ entry }) => groupOf(entry)))];
  const shown = (all: Schemas["EntryOut"][]) =>
    all.filter(({ entry }) => accept(entry) && (!groups.includes(group) || groupOf(entry) === group));
  const found = shown(catalogue.data ?? []);
  const settled = !catalogue.isPlaceholderData && typed === text;
  const offline = catalogue.fetchStatus === "paused";
  const take = (entry: Schemas["Entry"]) => {
    choose(entry);
    onOpenChange(false);
  };
  /** Enter may come before what was typed is found: it waits for that, and lapses when the typing goes on. */
  const takeFirst = async (field: HTMLInputElement) => {
    const first = shown(await queries.fetchQuery(catalogueOf(kind, text.trim())))[0];
    if (first && field.isConnected && field.value === text) take(first.entry);
  };
  return (
    <>
      {header}
      <label htmlFor={id} className="sr-only">
        Search
      </label>
      <input
        id={id}
        data-first
        className={INPUT}
        placeholder="Search by name, kind or what people call it; Enter takes the first"
        autoComplete="off"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter") takeFirst(e.currentTarget).catch(() => undefined); // what failed is said below
        }}
      />
      {groups.length > 1 && (
        <div className="mt-2 flex flex-wrap gap-1.5" role="group" aria-label="Show only">
          {["", ...groups].map((g) => (
            <Button
              key={g}
              kind={g === group || (g === "" && !groups.includes(group)) ? "strong" : "plain"}
              aria-pressed={g === group}
              onClick={() => setGroup(g)}
            >
              {g || "all"}
            </Button>
          ))}
        </div>
      )}
      {catalogue.isPending && !offline && <p className="text-soft mt-3">Fetching the catalogue</p>}
      {offline && (
        <p role="status" className="text-soft mt-3">
          Without a connection the catalogue can&rsquo;t be searched
          {found.length > 0 && "; below is what was found before"}.
        </p>
      )}
      {catalogue.isError && (
        <p role="alert" className="text-fail mt-3">
          The catalogue can&rsquo;t be fetched: {catalogue.error.message}
        </p>
      )}
      {/* what is about to change under the pointer can't be taken by mistake */}
      <ul className="divide-line/70 mt-3 divide-y" aria-busy={!settled && !offline} inert={!settled && !offline}>
        {found.map(({ id, own, entry }) => (
          <li key={id} className="flex items-center gap-3 py-2">
            <div className="min-w-0 flex-1">
              <p className="font-medium">
                {nameOf(entry)} {own && <span className="text-soft text-sm font-normal">(your own)</span>}
              </p>
              <p className="text-soft text-sm">{describe(entry)}</p>
            </div>
            {own && (
              <IconButton label={`Remove ${nameOf(entry)} from your catalogue`} onClick={() => forget.mutate(id)}>
                <Trash2 size={14} />
              </IconButton>
            )}
            <Button aria-label={`Take ${nameOf(entry)}`} onClick={() => take(entry)}>
              Take
            </Button>
          </li>
        ))}
      </ul>
      {catalogue.isSuccess && settled && found.length === 0 && (
        <p className="text-soft mt-3">Nothing is called that{make ? "; make it yourself below" : ""}.</p>
      )}
      {settled && catalogue.isSuccess && typed.trim() !== "" && found.length < MOST_TOLD && (
        <Elsewhere kind={kind} text={typed.trim()} />
      )}
      {make && (
        <div className="mt-3">
          <Button
            onClick={() => {
              make(text.trim());
              onOpenChange(false);
            }}
          >
            <Plus size={15} aria-hidden /> {text.trim() ? `Make “${text.trim()}” yourself` : "Make one yourself"}
          </Button>
        </div>
      )}
      {footer && <div className="border-line mt-4 border-t pt-4">{footer}</div>}
    </>
  );
}

const LISTS: Partial<Record<Schemas["Entry"]["kind"], string>> = {
  part: "Among the parts (Draw)",
  stage: "Among the stages (Supply)",
  cell: "Among the cells (Battery)",
  charger: "Among the chargers (Charge)",
};
const MOST_TOLD = 3;

/** What was typed may stand in another list of the catalogue: its names, and the step that takes from it. */
function Elsewhere({ kind, text }: { kind: Schemas["Entry"]["kind"]; text: string }) {
  const all = useCatalogue(undefined, text);
  const found = (all.data ?? []).filter(({ entry }) => entry.kind !== kind);
  if (all.isPlaceholderData || found.length === 0) return null;
  return (
    <dl className="text-soft mt-3 text-sm">
      {Object.entries(LISTS).map(([other, title]) => {
        const own = found.filter(({ entry }) => entry.kind === other).map(({ entry }) => nameOf(entry));
        return (
          own.length > 0 && (
            <div key={other}>
              <dt className="inline font-medium">{title}: </dt>
              <dd className="inline">
                {own.slice(0, MOST_TOLD).join("; ")}
                {own.length > MOST_TOLD && ` and ${own.length - MOST_TOLD} more`}
              </dd>
            </div>
          )
        );
      })}
    </dl>
  );
}

/** What entries are grouped by: a part's kind, a stage's topology, a cell's chemistry. */
const groupOf = ({ part, cell, stage }: Schemas["Entry"]): string =>
  part?.kind ?? cell?.chemistry ?? (stage ? stageGroup(stage) : "charger");

const stageGroup = (stage: Stage) =>
  stage.type === "switching" ? stage.topology : stage.type === "pass" ? stage.role : stage.type;

/** Keeps a part or stage, as it is in this design, as an entry of one's own; a kept one gets a new edition. */
export function KeepButton({ kind, item }: { kind: "part"; item: Part } | { kind: "stage"; item: Stage }) {
  const own = item.origin?.key.startsWith("own-") ? item.origin.key : null;
  return (
    <KeepEntry
      kind={kind}
      entryKey={own ?? `own-${item.id}`}
      item={{ ...item, origin: null }}
      kept={({ entry }) =>
        actions.edit(`Keep ${item.name}`, (d) => {
          const list: (Part | Stage)[] = kind === "part" ? d.parts : d.supply.stages;
          const found = list.find((x) => x.id === item.id);
          if (found) found.origin = { key: entry.key, edition: entry.edition };
        })
      }
    />
  );
}

/** A key of one's own for something that is known by its name. */
const ownKey = (name: string) =>
  `own-${name
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, "-")
    .replaceAll(/^-|-$/g, "")}`.slice(0, 60);

/** Keeps the cell; one of the same name gets a new edition. */
export function KeepCell({ cell }: { cell: Schemas["Cell"] }) {
  return <KeepEntry kind="cell" entryKey={ownKey(cell.name)} item={cell} />;
}

/** The same for a charger; the mode it charges in belongs to the gadget. */
export function KeepCharger({ charger }: { charger: Schemas["Charger"] }) {
  return <KeepEntry kind="charger" entryKey={ownKey(charger.name)} item={{ ...charger, mode: null }} />;
}

/** What one's own machine holds. */
export function KeepMaking({ making }: { making: Schemas["OwnMaking"] }) {
  return <KeepEntry kind="making" entryKey={ownKey(making.name)} item={making} />;
}

function KeepEntry({
  kind,
  entryKey,
  item,
  kept,
}: {
  kind: Schemas["Entry"]["kind"];
  entryKey: string;
  item: object;
  kept?: (made: Schemas["EntryOut"]) => void;
}) {
  const queries = useQueryClient();
  const keep = useMutation<Schemas["EntryOut"], ProblemError>({
    mutationFn: () =>
      ask(
        client.PUT("/api/catalogue/own", {
          body: { key: entryKey, kind, edition: 1, note: "", [kind]: item },
        }),
      ),
    onSuccess: (made) => {
      void queries.invalidateQueries({ queryKey: ["catalogue", kind] });
      kept?.(made);
    },
  });
  return (
    <>
      <Button busy={keep.isPending} onClick={() => keep.mutate()}>
        <BookmarkPlus size={15} aria-hidden /> Keep in my catalogue
      </Button>
      {keep.isSuccess && (
        <p role="status" className="text-soft text-sm">
          Kept as edition {keep.data.entry.edition}.
        </p>
      )}
      {keep.error && (
        <p role="alert" className="text-fail text-sm">
          {keep.error.message}
        </p>
      )}
    </>
  );
}

export const nameOf = (entry: Schemas["Entry"]): string =>
  (entry.part ?? entry.cell ?? entry.stage ?? entry.charger ?? entry.making)?.name ?? entry.key;
