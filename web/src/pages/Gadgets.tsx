// All gadgets of the account, to be found again, and the ways to a new one.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { useCallback, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { ask, client, type Schemas } from "../api/client";
import { useProjects } from "../api/queries";
import { TopBar } from "../shell/TopBar";
import { Button, Choice, Empty, INPUT } from "../ui/controls";
import { date } from "../ui/format";
import { useTitle } from "../ui/title";
import { GadgetCard } from "./GadgetCard";
import { found, ORDERS, tagsOf, type Order } from "./gadgetList";
import { TABLE, useDroppedFile } from "./drop";
import { NewGadget } from "./NewGadget";

export function Gadgets() {
  const projects = useProjects();
  const queries = useQueryClient();
  const [creating, setCreating] = useState(false);
  const [dropped, setDropped] = useState<File | null>(null);
  const navigate = useNavigate();
  const begin = () => void navigate("/gadgets/begin");
  const examples = useMutation({
    mutationFn: () => ask(client.POST("/api/projects/examples")),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["projects"] }),
  });
  useDroppedFile(
    useCallback((file: File) => {
      if (!TABLE.test(file.name)) return false;
      setDropped(file);
      setCreating(true);
      return true;
    }, []),
  );
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
        {!!projects.data?.length && <List projects={projects.data} />}
        <Deleted />
      </main>
      <NewGadget
        open={creating}
        dropped={dropped}
        onOpenChange={(to) => {
          setCreating(to);
          if (!to) setDropped(null);
        }}
      />
    </div>
  );
}

/** The gadgets that are looked for, in the order that is asked for; the address keeps both. */
function List({ projects }: { projects: readonly Schemas["ProjectOut"][] }) {
  const [asked, setAsked] = useSearchParams();
  const put = (key: string, value: string) =>
    setAsked(
      (now) => {
        if (value) now.set(key, value);
        else now.delete(key);
        return now;
      },
      { replace: true },
    );
  const words = asked.get("q") ?? "";
  const tag = asked.get("tag") ?? "";
  const archived = asked.get("archive") === "1";
  const order = (asked.get("order") ?? "changed") as Order;
  const here = projects.filter((p) => p.archived === archived);
  const away = projects.length - projects.filter((p) => !p.archived).length;
  const shown = found(here, words, tag, order);
  return (
    <>
      {(projects.length > 1 || away > 0) && (
        <div className="mb-4 flex flex-wrap items-center gap-2">
          <input
            type="search"
            aria-label="Search the gadgets"
            placeholder="Name, tag or finding"
            className={`${INPUT} max-w-72 flex-1`}
            value={words}
            onChange={(e) => put("q", e.target.value)}
          />
          <span className="w-56">
            <Choice label="Order" bare value={order} options={ORDERS} onChange={(to) => put("order", to)} />
          </span>
          {tagsOf(projects).map((t) => (
            <Button
              key={t}
              kind={t === tag ? "strong" : "plain"}
              aria-pressed={t === tag}
              onClick={() => put("tag", t === tag ? "" : t)}
            >
              {t}
            </Button>
          ))}
          {(away > 0 || archived) && (
            <Button kind="quiet" aria-pressed={archived} onClick={() => put("archive", archived ? "" : "1")}>
              {archived ? "Back from the archive" : `Archive (${away})`}
            </Button>
          )}
        </div>
      )}
      <p role="status" className={words || tag ? "text-soft mb-2 text-sm" : "sr-only"}>
        {`${shown.length} of ${here.length} gadgets`}
      </p>
      {!here.length && <Empty title={archived ? "Nothing in the archive" : "All of them are in the archive"} />}
      {!!here.length && !shown.length && <Empty title="None of them has that in its name, tags or findings" />}
      <ul className="grid items-start gap-4 md:grid-cols-2">
        {shown.map((p) => (
          <GadgetCard key={p.id} project={p} onTag={(t) => put("tag", t)} />
        ))}
      </ul>
    </>
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
