// Share: people who see or change the gadget by their own accounts, and links for those who have none.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Copy, Trash2 } from "lucide-react";
import { useState, type FormEvent } from "react";
import { useNavigate } from "react-router";
import { ask, client, ProblemError, type Schemas } from "../../api/client";
import { useSession } from "../../api/queries";
import { useDesign } from "../../design/store";
import { Button, Check, Choice, IconButton, INPUT, Section } from "../../ui/controls";
import { date } from "../../ui/format";
import { Problems } from "../../ui/problems";

type Role = Schemas["MemberOut"]["role"];
const ROLES: readonly (readonly [Role, string])[] = [
  ["view", "may look"],
  ["edit", "may change it"],
];
const GOOD_FOR: readonly (readonly [string, string])[] = [
  ["7", "for a week"],
  ["30", "for a month"],
  ["365", "for a year"],
  ["", "until taken back"],
];
const addressOf = (secret: string) => `${window.location.origin}/shared/${secret}`;

export function Share() {
  const project = useDesign((s) => s.variant)!.project;
  return (
    <Section title="Share" className="print:hidden">
      {project.role === "own" ? (
        <div className="space-y-4">
          <Links />
          <People />
        </div>
      ) : (
        <Guest />
      )}
    </Section>
  );
}

function Links() {
  const variant = useDesign((s) => s.variant)!;
  const { project } = variant;
  const path = { project_id: project.id };
  const key = ["links", project.id];
  const queries = useQueryClient();
  const [days, setDays] = useState("30");
  const [all, setAll] = useState(false);
  const [copied, setCopied] = useState<number | null>(null);
  const links = useQuery<Schemas["LinkOut"][], ProblemError>({
    queryKey: key,
    queryFn: () => ask(client.GET("/api/projects/{project_id}/links", { params: { path } })),
  });
  const settle = { onSettled: () => queries.invalidateQueries({ queryKey: key }) };
  const make = useMutation<unknown, ProblemError>({
    mutationFn: () => {
      const others = project.variants.map((v) => v.id).filter((id) => id !== variant.id);
      const variants = [variant.id, ...(all ? others.slice(0, 5) : [])];
      const body = { variants, days: days ? Number(days) : null };
      return ask(client.POST("/api/projects/{project_id}/links", { params: { path }, body }));
    },
    ...settle,
  });
  const takeBack = useMutation<unknown, ProblemError, number>({
    mutationFn: (link) =>
      ask(
        client.DELETE("/api/projects/{project_id}/links/{link_id}", {
          params: { path: { ...path, link_id: link } },
        }),
      ),
    ...settle,
  });
  const named = (ids: number[]) =>
    ids.map((id) => project.variants.find((v) => v.id === id)?.name ?? "a variant that is gone").join(" beside ");
  return (
    <div>
      <h3 className="text-base">By a link, to be read without an account</h3>
      <div className="mt-1 flex flex-wrap items-center gap-2">
        <span className="w-44">
          <Choice label="How long the link is good" bare value={days} options={GOOD_FOR} onChange={setDays} />
        </span>
        {project.variants.length > 1 && (
          <Check label="with the other variants beside it" checked={all} onChange={setAll} />
        )}
        <Button onClick={() => make.mutate()} busy={make.isPending}>
          Make a link
        </Button>
      </div>
      <Problems error={links.error ?? make.error ?? takeBack.error} />
      <ul className="mt-2 space-y-2">
        {links.data?.map((link) => (
          <li key={link.id} className="text-sm">
            <div className="flex items-center gap-1.5">
              <input
                readOnly
                className={INPUT}
                aria-label={`Link to ${named(link.variants)}`}
                value={addressOf(link.secret)}
                onFocus={(e) => e.target.select()}
              />
              <IconButton
                label="Copy the link"
                onClick={() =>
                  void navigator.clipboard.writeText(addressOf(link.secret)).then(() => setCopied(link.id))
                }
              >
                <Copy size={15} />
              </IconButton>
              <IconButton label="Take the link back" onClick={() => takeBack.mutate(link.id)}>
                <Trash2 size={15} />
              </IconButton>
            </div>
            <p className="text-soft" role="status">
              {named(link.variants)}; {link.expires ? `good until ${date(link.expires)}` : "good until taken back"}
              {copied === link.id && "; copied"}
            </p>
          </li>
        ))}
      </ul>
    </div>
  );
}

function People() {
  const project = useDesign((s) => s.variant)!.project;
  const path = { project_id: project.id };
  const key = ["people", project.id];
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [role, setRole] = useState<Role>("view");
  const people = useQuery<Schemas["MemberOut"][], ProblemError>({
    queryKey: key,
    queryFn: () => ask(client.GET("/api/projects/{project_id}/people", { params: { path } })),
  });
  const settle = { onSettled: () => queries.invalidateQueries({ queryKey: key }) };
  const invite = useMutation<unknown, ProblemError, { name: string; role: Role }>({
    mutationFn: (body) => ask(client.PUT("/api/projects/{project_id}/people", { params: { path }, body })),
    onSuccess: () => setName(""),
    ...settle,
  });
  const remove = useMutation<unknown, ProblemError, string>({
    mutationFn: (who) =>
      ask(client.DELETE("/api/projects/{project_id}/people/{name}", { params: { path: { ...path, name: who } } })),
    ...settle,
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    invite.mutate({ name: name.trim(), role });
  };
  return (
    <div>
      <h3 className="text-base">With people who have an account here</h3>
      <form onSubmit={submit} className="mt-1 flex flex-wrap items-start gap-2">
        <span className="min-w-40 flex-1">
          <input
            className={INPUT}
            aria-label="Name of their account"
            placeholder="Name of their account"
            maxLength={150}
            value={name}
            aria-invalid={!!invite.error?.at("/name")}
            aria-describedby="invited-name-problem"
            onChange={(e) => setName(e.target.value)}
          />
          {invite.error && (
            <span id="invited-name-problem" role="alert" className="text-fail text-sm">
              {invite.error.at("/name") ?? invite.error.sentences.join(" ")}
            </span>
          )}
        </span>
        <span className="w-36">
          <Choice label="What they may do" bare value={role} options={ROLES} onChange={setRole} />
        </span>
        <Button type="submit" disabled={!name.trim()} busy={invite.isPending}>
          Invite
        </Button>
      </form>
      <Problems error={people.error ?? remove.error} />
      <ul className="mt-2">
        {people.data?.map((p) => (
          <li key={p.name} className="border-line/60 flex items-center gap-2 border-t py-1 first:border-t-0">
            <span className="min-w-0 flex-1 truncate">{p.name}</span>
            <span className="w-36">
              <Choice
                label={`What ${p.name} may do`}
                bare
                value={p.role}
                options={ROLES}
                onChange={(next) => invite.mutate({ name: p.name, role: next })}
              />
            </span>
            <IconButton label={`Take ${p.name} out`} onClick={() => remove.mutate(p.name)}>
              <Trash2 size={15} />
            </IconButton>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** What somebody who was invited sees here. */
function Guest() {
  const project = useDesign((s) => s.variant)!.project;
  const { data: session } = useSession();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const leave = useMutation<unknown, ProblemError>({
    mutationFn: () =>
      ask(
        client.DELETE("/api/projects/{project_id}/people/{name}", {
          params: { path: { project_id: project.id, name: session?.user ?? "" } },
        }),
      ),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["projects"] });
      void navigate("/gadgets");
    },
  });
  return (
    <>
      <p>
        This gadget is {project.owner}&apos;s. You {project.role === "edit" ? "may change it" : "may look at it"}; what
        you make a copy of, on the page of all gadgets, is yours.
      </p>
      <Problems error={leave.error} />
      <Button className="mt-2" onClick={() => leave.mutate()} busy={leave.isPending}>
        Leave it
      </Button>
    </>
  );
}
