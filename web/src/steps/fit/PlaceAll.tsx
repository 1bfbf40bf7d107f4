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
  const smallest = useMutation<Schemas["SmallestCase"], ProblemError>({
    mutationFn: () => ask(client.POST("/api/answers/smallest-case", { body: design })),
  });
  const remedy = smallest.data?.remedy;
  const busy = placing.isPending || smallest.isPending;
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      <Button
        busy={busy}
        onClick={() => {
          smallest.reset();
          placing.mutate(false);
        }}
      >
        Place what has no place
      </Button>
      <Button
        busy={busy}
        onClick={() => {
          smallest.reset();
          placing.mutate(true);
        }}
      >
        Place all anew
      </Button>
      <Button
        busy={busy}
        onClick={() => {
          placing.reset();
          smallest.mutate();
        }}
      >
        Smallest case
      </Button>
      <span role="status" className="text-soft text-sm">
        {smallest.data?.sentence ?? placing.data?.sentence}
        {smallest.data?.worse.map((text) => ` ${text}`)}
      </span>
      {remedy && (
        <Button
          onClick={() => {
            applyRemedy(remedy.label, remedy.patch);
            smallest.reset();
          }}
        >
          Take it over
        </Button>
      )}
      <Problems error={placing.error ?? smallest.error} />
    </div>
  );
}
