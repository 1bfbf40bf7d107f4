// All gadgets of the account, and the ways to a new one.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Copy, Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { ask, client, type Schemas } from "../api/client";
import { useProjects } from "../api/queries";
import { TopBar } from "../shell/TopBar";
import { Button, Empty, IconButton } from "../ui/controls";
import { Dialog } from "../ui/dialog";
import { count, date, show } from "../ui/format";
import { StatusMark } from "../design/fields/status";
import { useTitle } from "../ui/title";
import type { Status } from "../design/types";
import { NewGadget } from "./NewGadget";

const GRAVEST: Record<string, [Status, string]> = {
  stop: ["fail", "something has to stop"],
  fix: ["fail", "something to mend"],
  watch: ["watch", "something to watch"],
  note: ["pass", "a note"],
  "": ["pass", "no findings"],
};

export function Gadgets() {
  const projects = useProjects();
  const queries = useQueryClient();
  const [creating, setCreating] = useState(false);
  const navigate = useNavigate();
  const begin = () => void navigate("/gadgets/begin");
  const examples = useMutation({
    mutationFn: () => ask(client.POST("/api/projects/examples")),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["projects"] }),
  });
  useTitle("Gadgets");
  return (
    <div className="min-h-screen">
      <TopBar />
      <main id="work" tabIndex={-1} className="mx-auto max-w-5xl px-4 py-6">
        <div className="mb-5 flex flex-wrap items-center justify-between gap-3">
          <h1 className="text-3xl">Gadgets</h1>
          <div className="flex flex-wrap gap-2">
            <Button kind="strong" onClick={begin}>
              <Plus size={16} aria-hidden /> New gadget
            </Button>
            <Button onClick={() => setCreating(true)}>Empty or from a file</Button>
          </div>
        </div>
        {projects.isPending && <p className="text-soft">Fetching the gadgets</p>}
        {projects.isError && <p role="alert">The gadgets could not be fetched. Reload the page to try again.</p>}
        {projects.data?.length === 0 && (
          <Empty title="No gadget yet">
            <p>
              A few questions make a whole design of it; or begin with an empty one, a parts list or a design document.
            </p>
            <div className="mt-4 flex flex-wrap justify-center gap-2">
              <Button kind="strong" onClick={begin}>
                Begin with a question
              </Button>
              <Button onClick={() => examples.mutate()} busy={examples.isPending}>
                Put in examples
              </Button>
            </div>
            {examples.isError && <p role="alert">The examples could not be made: {examples.error.message}.</p>}
          </Empty>
        )}
        <ul className="grid items-start gap-4 md:grid-cols-2">
          {projects.data?.map((p) => (
            <GadgetCard key={p.id} project={p} />
          ))}
        </ul>
        <Deleted />
      </main>
      <NewGadget open={creating} onOpenChange={setCreating} />
    </div>
  );
}

/** What was deleted in the last days, to be put back. */
function Deleted() {
  const queries = useQueryClient();
  const deleted = useQuery({
    queryKey: ["projects", "deleted"],
    queryFn: () => ask(client.GET("/api/projects/deleted")),
  });
  const back = useMutation<unknown, Error, number>({
    mutationFn: (id) =>
      ask(client.POST("/api/projects/{project_id}/put-back", { params: { path: { project_id: id } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["projects"] }),
  });
  if (!deleted.data?.length) return null;
  return (
    <section aria-label="Deleted" className="border-line mt-8 border-t pt-4">
      <h2 className="text-lg">Deleted</h2>
      {back.isError && <p role="alert">It was not put back: {back.error.message}.</p>}
      <ul className="mt-1">
        {deleted.data.map((d) => (
          <li key={d.id} className="flex flex-wrap items-center gap-x-3 gap-y-1 py-1">
            <span className="min-w-0 truncate">{d.name}</span>
            <span className="text-soft text-sm">gone for good on {date(d.until)}</span>
            <Button kind="quiet" onClick={() => back.mutate(d.id)} aria-label={`Put back ${d.name}`}>
              Put back
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}

function GadgetCard({ project }: { project: Schemas["ProjectOut"] }) {
  const queries = useQueryClient();
  const [asking, setAsking] = useState(false);
  const [refused, setRefused] = useState("");
  const duplicate = async () => {
    const path = { project_id: project.id };
    const said = await ask(client.POST("/api/projects/{project_id}/duplicate", { params: { path } })).then(
      () => "",
      (error: Error) => `It was not copied: ${error.message}.`,
    );
    setRefused(said);
    await queries.invalidateQueries({ queryKey: ["projects"] });
  };
  const remove = async () => {
    await ask(client.DELETE("/api/projects/{project_id}", { params: { path: { project_id: project.id } } }));
    await queries.invalidateQueries({ queryKey: ["projects"] });
  };
  return (
    <li className="rounded-card border-line bg-sheet border p-4">
      <div className="flex items-start justify-between gap-2">
        <h2 className="text-xl">{project.name}</h2>
        <span className="flex shrink-0">
          <IconButton label={`Duplicate ${project.name}`} onClick={() => void duplicate()}>
            <Copy size={16} />
          </IconButton>
          <IconButton label={`Delete ${project.name}`} onClick={() => setAsking(true)}>
            <Trash2 size={16} />
          </IconButton>
        </span>
      </div>
      <ul className="divide-line/70 mt-1 divide-y">
        {project.variants.map((v) => {
          const [status, word] = GRAVEST[v.head?.gravest ?? ""] ?? ["unknown", ""];
          return (
            <li key={v.id}>
              <Link
                to={`/gadgets/${v.id}/draw`}
                className="hover:bg-well -mx-2 flex items-center gap-3 rounded-md px-2 py-2"
              >
                <StatusMark status={status} />
                <span className="min-w-0 flex-1">
                  <span className="block truncate font-medium">{v.name}</span>
                  <span className="text-soft block text-sm">
                    {v.head?.findings ? `${count(v.head.findings, "finding")}, ${word}` : "no findings"}
                  </span>
                </span>
                <span className="text-right whitespace-nowrap">
                  <span className="font-display block text-lg">{show(v.head?.runtime_h, "h")}</span>
                  <span className="text-soft block text-sm">{show(v.head?.mass_g, "g")}</span>
                </span>
              </Link>
            </li>
          );
        })}
      </ul>
      {refused && <p role="alert">{refused}</p>}
      <p className="text-soft mt-2 text-xs">changed {date(project.changed)}</p>
      <Dialog title={`Delete ${project.name}?`} open={asking} onOpenChange={setAsking}>
        <p>All its variants and revisions go with it. For thirty days it can be put back, from the end of this page.</p>
        <div className="mt-4 flex gap-2">
          <Button kind="strong" onClick={() => void remove()}>
            Delete it
          </Button>
          <Button onClick={() => setAsking(false)}>Keep it</Button>
        </div>
      </Dialog>
    </li>
  );
}
