// A supply that the tool made, kept as a variant of the gadget.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import { actions, useDesign } from "../../design/store";
import { freeName } from "../../design/variants";
import { Button } from "../../ui/controls";
import { Problems } from "../../ui/problems";

/** The gadget on this supply as a variant of its own. */
export function KeepSupply({ school }: { school: Schemas["SchoolAnswer"] }) {
  const variant = useDesign((s) => s.variant)!;
  const navigate = useNavigate();
  const queries = useQueryClient();
  const keep = useMutation<void, ProblemError>({
    mutationFn: async () => {
      await actions.saveNow();
      const made = await ask(
        client.POST("/api/projects/{project_id}/variants", {
          params: { path: { project_id: variant.project.id } },
          body: { name: freeName(school.pack, variant.project.variants), design: school.design! },
        }),
      );
      await queries.invalidateQueries({ queryKey: ["projects"] });
      void navigate(`/gadgets/${made.id}/supply`);
    },
  });
  return (
    <>
      <Button
        className="whitespace-nowrap"
        busy={keep.isPending}
        aria-label={`Keep as a variant: ${school.name}`}
        onClick={() => keep.mutate()}
      >
        Keep it
      </Button>
      <Problems error={keep.error} />
    </>
  );
}
