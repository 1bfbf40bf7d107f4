// A first arrangement of everything, as one edit.
import { useMutation } from "@tanstack/react-query";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import { useDesign, useOpenDesign } from "../../design/store";
import { Button } from "../../ui/controls";
import { Problems } from "../../ui/problems";

export function PlaceAll() {
  const design = useOpenDesign();
  const applyRemedy = useDesign((s) => s.applyRemedy);
  const placing = useMutation<Schemas["PlaceAnswer"], ProblemError, boolean>({
    mutationFn: (anew) => ask(client.POST("/api/answers/place", { body: design, params: { query: { anew } } })),
    onSuccess: (answer) => {
      if (answer.patch.length) applyRemedy("Place all", answer.patch);
    },
  });
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      <Button busy={placing.isPending} onClick={() => placing.mutate(false)}>
        Place what has no place
      </Button>
      <Button busy={placing.isPending} onClick={() => placing.mutate(true)}>
        Place all anew
      </Button>
      <span role="status" className="text-soft text-sm">
        {placing.data?.sentence}
      </span>
      <Problems error={placing.error} />
    </div>
  );
}
