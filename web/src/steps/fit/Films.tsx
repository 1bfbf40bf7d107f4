// Films and tape between one thing and others, that let them lie on each other.
import { Plus, Trash2 } from "lucide-react";
import { QuantityField } from "../../design/fields/fields";
import { useDesign, useOpenDesign } from "../../design/store";
import type { Design } from "../../design/types";
import { Button, Choice, IconButton } from "../../ui/controls";
import { bodyKey, keyed } from "./bodies";

const FILM_MM = 0.1;

export function Films({ where }: { where: string }) {
  const design = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const own = bodyKey(design, where);
  if (own === null) return null;
  const { films } = design.enclosure;
  const set = (label: string, work: (films: Design["enclosure"]["films"]) => void) =>
    edit(label, (d) => work(d.enclosure.films));
  const mine = films.flatMap((f, i) => (f.first === own || f.second === own ? [{ f, i }] : []));
  const others = keyed(design).flatMap(([key, name]) => (key === own ? [] : [[key, name] as const]));
  const free = others.find(([key]) => !mine.some(({ f }) => f.first === key || f.second === key));
  return (
    <fieldset className="min-w-0 space-y-1.5">
      <legend className="text-soft mb-0.5 text-sm">Film or tape to what lies on it</legend>
      {mine.map(({ f, i }) => {
        const other = f.first === own ? "second" : "first";
        return (
          <div key={i} className="flex items-end gap-1.5">
            <div className="min-w-0 grow">
              <Choice
                label={`Film to, ${i + 1}`}
                bare
                value={f[other]}
                options={others}
                onChange={(v) => set("Film", (all) => (all[i]![other] = v))}
              />
            </div>
            <div className="w-28">
              <QuantityField
                bare
                label={`Thickness of film ${i + 1}`}
                value={f.thickness_mm}
                dimension="length"
                positive
                path={`/enclosure/films/${i}/thickness_mm`}
                onCommit={(v) => v !== null && set("Film", (all) => (all[i]!.thickness_mm = v))}
              />
            </div>
            <IconButton label={`Remove film ${i + 1}`} onClick={() => set("Remove a film", (all) => all.splice(i, 1))}>
              <Trash2 size={14} />
            </IconButton>
          </div>
        );
      })}
      {free && (
        <Button
          kind="quiet"
          onClick={() => set("Film", (all) => all.push({ first: own, second: free[0], thickness_mm: FILM_MM }))}
        >
          <Plus size={15} aria-hidden /> Film
        </Button>
      )}
    </fieldset>
  );
}
