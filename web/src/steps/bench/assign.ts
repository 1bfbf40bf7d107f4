// What somebody says of a recording: which mode is where, the last word last.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import { useDesign } from "../../design/store";

type Trace = Schemas["TraceOut"];
type Assigned = Schemas["Assigned"];

export function useAssign(trace: Trace) {
  const variant = useDesign((s) => s.variant)!;
  const queries = useQueryClient();
  return useMutation<void, ProblemError, Assigned[]>({
    mutationFn: async (assigned) => {
      const path = { variant_id: variant.id, trace_id: trace.id };
      const now = await ask(
        client.PUT("/api/variants/{variant_id}/traces/{trace_id}/assigned", { params: { path }, body: { assigned } }),
      );
      queries.setQueryData<Trace[]>(["traces", variant.id], (all) => all?.map((t) => (t.id === now.id ? now : t)));
    },
  });
}
