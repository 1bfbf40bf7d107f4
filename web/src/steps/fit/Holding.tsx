// What holds the case together: posts, inserts, nuts and snaps, put in where the core finds room for them.
import { Explain } from "../../ui/terms";
import { useMutation } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { useState } from "react";
import { ask, client, type ProblemError, type Schemas } from "../../api/client";
import { useDesign, useOpenDesign } from "../../design/store";
import type { Design } from "../../design/types";
import { Button, Choice, IconButton } from "../../ui/controls";
import { Problems } from "../../ui/problems";
import { keyed } from "./bodies";

type Offer = Schemas["HoldingOffer"];

export function Holding({ select }: { select: (where: string) => void }) {
  const design = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const { fastenings } = design.enclosure;
  const carried = new Set(fastenings.map((f) => f.carries));
  const loose = keyed(design).some(
    ([key, , body]) => body?.shape === "board" && body.holes.length > 0 && !carried.has(key),
  );
  return (
    <fieldset className="min-w-0 space-y-1.5">
      <legend className="text-soft mb-0.5 text-sm">What holds it together</legend>
      {fastenings.length === 0 && <p className="text-[0.9375rem]">Nothing yet.</p>}
      <ul>
        {fastenings.map((f, i) => (
          <li key={f.id} className="flex items-center justify-between gap-2 text-[0.9375rem]">
            <button
              type="button"
              className="hover:text-ember-ink min-h-7 min-w-0 truncate text-left underline decoration-dotted underline-offset-2"
              onClick={() => select(`/enclosure/fastenings/${i}`)}
            >
              {f.name}
            </button>
            <IconButton
              label={`Remove ${f.name}`}
              onClick={() => edit(`Remove ${f.name}`, (d) => d.enclosure.fastenings.splice(i, 1))}
            >
              <Trash2 size={14} />
            </IconButton>
          </li>
        ))}
      </ul>
      {(fastenings.length === 0 || loose) && <Offers />}
      {fastenings.length > 1 && (
        <Button kind="quiet" onClick={() => edit("Nothing holds it", (d) => (d.enclosure.fastenings = []))}>
          Take them all out
        </Button>
      )}
    </fieldset>
  );
}

/** Every kind and size that finds room, asked for when somebody wants one. */
function Offers() {
  const design = useOpenDesign();
  const applyRemedy = useDesign((s) => s.applyRemedy);
  const [chosen, setChosen] = useState<string | null>(null);
  const asked = useMutation<Offer[], ProblemError, Design>({
    mutationFn: (body) => ask(client.POST("/api/answers/holding", { body })),
  });
  const offers = asked.variables === design ? asked.data : undefined; // places found in another document may be taken
  const offer = offers?.find((o) => o.label === chosen) ?? offers?.[0];
  if (!offers)
    return (
      <>
        <Button busy={asked.isPending} onClick={() => asked.mutate(design)}>
          What has room
        </Button>
        <Explain label="What has room" field="what-has-room" />
        <Problems error={asked.error} />
      </>
    );
  if (!offer)
    return <p className="text-soft text-sm">Nothing finds room: move what is in the corners, or a larger case.</p>;
  return (
    <div className="space-y-1.5">
      <Choice
        label="With"
        value={offer.label}
        options={offers.map((o) => [o.label, o.label] as const)}
        onChange={setChosen}
      />
      <div className="flex flex-wrap items-center gap-2">
        <Button onClick={() => applyRemedy(offer.label, offer.patch)}>Put them in</Button>
        <span className="text-soft text-sm">{offer.sentence}</span>
      </div>
    </div>
  );
}
