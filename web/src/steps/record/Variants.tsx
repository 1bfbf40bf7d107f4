// The variants of the gadget side by side, by the figures of their last revisions.
import { useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { useState, type FormEvent } from "react";
import { Link, useNavigate } from "react-router";
import { ask, client, ProblemError } from "../../api/client";
import { actions, useDesign, useOpenDesign } from "../../design/store";
import { Button, IconButton, INPUT, Section } from "../../ui/controls";
import { show } from "../../ui/format";

const MOST_BESIDE = 5; // and this one

export function Variants() {
  const variant = useDesign((s) => s.variant)!;
  const head = useDesign((s) => s.revision)!;
  const design = useOpenDesign();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [against, setAgainst] = useState<readonly number[]>([]);
  const [problem, setProblem] = useState<string>();

  const attempt = async (work: () => Promise<void>) => {
    setProblem(undefined);
    try {
      await work();
      await queries.invalidateQueries({ queryKey: ["projects"] });
    } catch (error) {
      setProblem(error instanceof ProblemError ? error.sentences.join(" ") : "The server does not answer; try again.");
    }
  };
  const copy = (e: FormEvent) => {
    e.preventDefault();
    void attempt(async () => {
      const made = await ask(
        client.POST("/api/projects/{project_id}/variants", {
          params: { path: { project_id: variant.project.id } },
          body: { name, design },
        }),
      );
      setName("");
      void navigate(`/gadgets/${made.id}/record`);
    });
  };
  const remove = (id: number) =>
    void attempt(async () => {
      await ask(client.DELETE("/api/variants/{variant_id}", { params: { path: { variant_id: id } } }));
      const left = variant.project.variants.find((v) => v.id !== id);
      await queries.invalidateQueries({ queryKey: ["variant"] });
      void navigate(`/gadgets/${id === variant.id ? left?.id : variant.id}/record`);
    });
  return (
    <Section title="Variants">
      <table className="w-full text-[0.9375rem] [&_td+td]:pl-3 [&_th+th]:pl-3">
        <thead className="text-soft text-sm">
          <tr>
            <th className="pb-1 text-left font-normal">Variant</th>
            <th className="pb-1 text-right font-normal">Runtime</th>
            <th className="pb-1 text-right font-normal">Mass</th>
            <th className="pb-1 text-right font-normal">Cost</th>
            <th className="pb-1 text-right font-normal">Findings</th>
            <th>
              <span className="sr-only">Delete</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {variant.project.variants.map((v) => {
            const figures = v.id === variant.id ? head : v.head;
            return (
              <tr key={v.id} className="border-line/60 border-t">
                <td className="py-1">
                  {v.id !== variant.id && (
                    <input
                      type="checkbox"
                      className="mr-2 accent-(--ink)"
                      aria-label={`Compare with ${v.name}`}
                      checked={against.includes(v.id)}
                      disabled={!against.includes(v.id) && against.length >= MOST_BESIDE}
                      onChange={(e) =>
                        setAgainst(e.target.checked ? [...against, v.id] : against.filter((id) => id !== v.id))
                      }
                    />
                  )}
                  {v.id === variant.id ? (
                    <span className="font-semibold">{v.name}</span>
                  ) : (
                    <Link className="underline underline-offset-2" to={`/gadgets/${v.id}/record`}>
                      {v.name}
                    </Link>
                  )}
                </td>
                <td className="py-1 text-right">{show(figures?.runtime_h, "h")}</td>
                <td className="py-1 text-right">{show(figures?.mass_g, "g")}</td>
                <td className="py-1 text-right">{show(figures?.cost, design.brief.currency)}</td>
                <td className="py-1 text-right">{figures?.findings}</td>
                <td className="w-8">
                  {variant.project.role === "own" && variant.project.variants.length > 1 && (
                    <IconButton label={`Delete the variant ${v.name}`} onClick={() => remove(v.id)}>
                      <Trash2 size={14} />
                    </IconButton>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {variant.project.variants.length > 1 && (
        <p className="mt-2">
          <Button
            disabled={!against.length}
            onClick={() => {
              void actions
                .saveNow()
                .then(() => navigate(`/gadgets/${variant.id}/compare?${against.map((id) => `with=${id}`).join("&")}`));
            }}
          >
            Compare with {against.length === 1 ? "it" : "them"}
          </Button>
        </p>
      )}
      {variant.project.role !== "view" && (
        <form onSubmit={copy} className="mt-3 flex gap-2">
          <input
            className={INPUT}
            aria-label="Name of the new variant"
            placeholder="Name of a new variant, a copy of this one"
            maxLength={120}
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
          <Button type="submit" disabled={!name.trim()} className="shrink-0">
            Copy
          </Button>
        </form>
      )}
      {problem && (
        <p role="alert" className="text-fail mt-1 text-sm">
          {problem}
        </p>
      )}
    </Section>
  );
}
