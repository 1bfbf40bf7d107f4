// The case's pieces as files to print, or to go on with elsewhere.
import { useMutation } from "@tanstack/react-query";
import { ask, client, type ProblemError } from "../../api/client";
import { useOpenDesign } from "../../design/store";
import { Button } from "../../ui/controls";
import { saveBlob } from "../../ui/download";
import { Problems } from "../../ui/problems";

const KINDS = ["stl", "3mf", "obj", "step"] as const;
type Kind = (typeof KINDS)[number];

export function CaseFile() {
  const design = useOpenDesign();
  const saving = useMutation<Blob, ProblemError, Kind>({
    mutationFn: (kind) =>
      ask<Blob>(client.POST("/api/answers/case", { body: design, params: { query: { kind } }, parseAs: "blob" })),
    onSuccess: (file, kind) => saveBlob(file, `case.${kind}`),
  });
  return (
    <fieldset className="min-w-0 space-y-1">
      <legend className="text-soft mb-0.5 text-sm">Its two pieces, to print or to go on with</legend>
      <div className="flex flex-wrap gap-1.5">
        {KINDS.map((kind) => (
          <Button key={kind} busy={saving.isPending && saving.variables === kind} onClick={() => saving.mutate(kind)}>
            Save {kind.toUpperCase()}
          </Button>
        ))}
      </div>
      <p className="text-soft text-sm">
        Walls, openings and vents, posts with their holes, snaps, ribs, letters, the rim that keeps the lid in its place
        or the groove of a seal, in millimetres, each piece on the side on which least of it hangs; holes and posts are
        drawn for what your machine makes of them, shrinkage is left to its program. Print a test piece first.
      </p>
      <Problems error={saving.error} />
    </fieldset>
  );
}
