// One gadget in the list: its picture, how it stands, and what may be done with it.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Archive, ArchiveRestore, Copy, Tags, Trash2 } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { ask, client, type Schemas } from "../api/client";
import { StatusMark } from "../design/fields/status";
import type { Status } from "../design/types";
import { Button, IconButton, INPUT } from "../ui/controls";
import { Dialog } from "../ui/dialog";
import { count, date, show } from "../ui/format";
import { useDark } from "../ui/theme";
import { tagsIn } from "./gadgetList";

type Project = Schemas["ProjectOut"];
type Change = Schemas["ProjectChange"];

const GRAVEST: Record<string, [Status, string]> = {
  stop: ["fail", "something has to stop"],
  fix: ["fail", "something to mend"],
  watch: ["watch", "something to watch"],
  note: ["pass", "a note"],
  "": ["pass", "no findings"],
};
const AREAS: Record<string, string> = { name: "its name", places: "where things lie", charging: "its charging" };

export function GadgetCard({ project, onTag }: { project: Project; onTag: (tag: string) => void }) {
  const queries = useQueryClient();
  const [asking, setAsking] = useState<"delete" | "tags" | null>(null);
  const path = { project_id: project.id };
  const settle = { onSettled: () => queries.invalidateQueries({ queryKey: ["projects"] }) };
  const change = useMutation<unknown, Error, Change>({
    mutationFn: (body) => ask(client.PATCH("/api/projects/{project_id}", { params: { path }, body })),
    ...settle,
  });
  const duplicate = useMutation({
    mutationFn: () => ask(client.POST("/api/projects/{project_id}/duplicate", { params: { path } })),
    ...settle,
  });
  const remove = useMutation({
    mutationFn: () => ask(client.DELETE("/api/projects/{project_id}", { params: { path } })),
    ...settle,
  });
  const refused = duplicate.error ?? change.error ?? remove.error;
  const last = project.variants
    .map((v) => v.head)
    .sort((a, b) => (b?.created ?? "").localeCompare(a?.created ?? ""))[0];
  return (
    <li className="rounded-card border-line bg-sheet border p-4 [contain-intrinsic-size:auto_200px] [content-visibility:auto]">
      <div className="flex items-start justify-between gap-2">
        <h2 className="text-xl">{project.name}</h2>
        <span className="flex shrink-0">
          {project.role !== "view" && (
            <IconButton label={`Tags of ${project.name}`} onClick={() => setAsking("tags")}>
              <Tags size={16} />
            </IconButton>
          )}
          <IconButton label={`Duplicate ${project.name}`} onClick={() => duplicate.mutate()}>
            <Copy size={16} />
          </IconButton>
          {project.role === "own" && (
            <>
              <IconButton
                label={
                  project.archived ? `Take ${project.name} out of the archive` : `Put ${project.name} into the archive`
                }
                onClick={() => change.mutate({ archived: !project.archived })}
              >
                {project.archived ? <ArchiveRestore size={16} /> : <Archive size={16} />}
              </IconButton>
              <IconButton label={`Delete ${project.name}`} onClick={() => setAsking("delete")}>
                <Trash2 size={16} />
              </IconButton>
            </>
          )}
        </span>
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-x-4">
        {last && <Picture revision={last.id} />}
        <ul className="divide-line/70 min-w-56 flex-1 divide-y">
          {project.variants.map((v) => (
            <VariantRow key={v.id} variant={v} />
          ))}
        </ul>
      </div>
      {refused && (
        <p role="alert" className="text-fail text-sm">
          That was not done: {refused.message}.
        </p>
      )}
      <div className="mt-2 flex flex-wrap items-center gap-x-2 gap-y-1 text-xs">
        <p className="text-soft">
          {project.role !== "own" && `of ${project.owner}; you may ${project.role === "edit" ? "change it" : "look"}; `}
          changed {date(project.changed)}
          {last && !!last.touched.length && `: ${last.touched.map((a) => AREAS[a] ?? a).join(", ")}`}
        </p>
        {project.tags.map((tag) => (
          <button
            key={tag}
            type="button"
            className="border-line text-soft hover:text-ink rounded-full border px-2 py-0.5"
            aria-label={`Gadgets with the tag ${tag}`}
            onClick={() => onTag(tag)}
          >
            {tag}
          </button>
        ))}
      </div>
      <Dialog title={`Delete ${project.name}?`} open={asking === "delete"} onOpenChange={() => setAsking(null)}>
        <p>All its variants and revisions go with it. For thirty days it can be put back, from the end of this page.</p>
        <div className="mt-4 flex gap-2">
          <Button kind="strong" onClick={() => remove.mutate()}>
            Delete it
          </Button>
          <Button onClick={() => setAsking(null)}>Keep it</Button>
        </div>
      </Dialog>
      <Dialog title={`Tags of ${project.name}`} open={asking === "tags"} onOpenChange={() => setAsking(null)}>
        <TagForm
          tags={project.tags}
          onSave={(tags) => {
            change.mutate({ tags });
            setAsking(null);
          }}
        />
      </Dialog>
    </li>
  );
}

function TagForm({ tags, onSave }: { tags: readonly string[]; onSave: (tags: string[]) => void }) {
  const [text, setText] = useState(tags.join(", "));
  const found = tagsIn(text);
  const many = found.length > 12;
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        if (!many) onSave(found);
      }}
    >
      <label className="text-soft text-sm">
        Words to find it by, a comma between them
        <input className={`${INPUT} mt-1`} autoFocus value={text} onChange={(e) => setText(e.target.value)} />
      </label>
      {many && (
        <p role="alert" className="text-fail mt-1 text-sm">
          At most twelve tags; these are {found.length}.
        </p>
      )}
      <div className="mt-4">
        <Button kind="strong" type="submit" disabled={many}>
          Keep the tags
        </Button>
      </div>
    </form>
  );
}

/** Its case and what lies in it; nothing where that can't be drawn. */
function Picture({ revision }: { revision: number }) {
  const dark = useDark();
  const [failed, setFailed] = useState(false);
  if (failed) return null;
  return (
    <img
      src={`/api/revisions/${revision}/picture.svg${dark ? "?dark=true" : ""}`}
      alt=""
      width={132}
      height={88}
      loading="lazy"
      className="shrink-0"
      onError={() => setFailed(true)}
    />
  );
}

function VariantRow({ variant }: { variant: Project["variants"][number] }) {
  const { head } = variant;
  const [status, word] = GRAVEST[head?.gravest ?? ""] ?? ["unknown", ""];
  const others = (head?.findings ?? 0) - 1;
  const said = head?.worst ? head.worst + (others > 0 ? `, ${others} more` : "") : "";
  return (
    <li>
      <Link
        to={`/gadgets/${variant.id}/draw`}
        className="hover:bg-well -mx-2 flex items-center gap-3 rounded-md px-2 py-2"
      >
        <StatusMark status={status} />
        <span className="min-w-0 flex-1">
          <span className="block truncate font-medium">{variant.name}</span>
          <span className="text-soft block text-sm">
            {said || (head?.findings ? `${count(head.findings, "finding")}, ${word}` : "no findings")}
          </span>
        </span>
        <span className="text-right whitespace-nowrap">
          <span className="font-display block text-lg">{show(head?.runtime_h, "h")}</span>
          <span className="text-soft block text-sm">{show(head?.mass_g, "g")}</span>
        </span>
      </Link>
    </li>
  );
}
