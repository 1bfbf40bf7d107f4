// How long and how often something happens in the day: the same fields wherever they are read.
import { useDesign, useOpenDesign } from "../store";
import type { Design } from "../types";
import { freshId } from "../edits";
import { ask, client, type Schemas } from "../../api/client";
import { QuantityField, SaidField } from "./fields";
import { clock } from "../../ui/format";

export type Change = (label: string, work: (d: Design["day"]) => void) => void;

export function useDayChange(): Change {
  const edit = useDesign((s) => s.edit);
  return (label, work) => edit(label, (d) => work(d.day));
}

export function SessionLength({ i }: { i: number }) {
  const s = useOpenDesign().day.sessions[i]!;
  const set = useDayChange();
  return (
    <QuantityField
      bare
      label={`${s.name}: how long`}
      value={s.seconds}
      dimension="time"
      path={`/day/sessions/${i}/seconds`}
      positive
      onCommit={(v) => v !== null && set(`${s.name}: length`, (d) => (d.sessions[i]!.seconds = v))}
    />
  );
}

export function SessionOften({ i }: { i: number }) {
  const s = useOpenDesign().day.sessions[i]!;
  const set = useDayChange();
  return s.at_h.length ? (
    <span className="text-soft py-1">{s.at_h.map(clock).join(", ")}</span>
  ) : (
    <>
      <div className="w-20">
        <QuantityField
          bare
          label={`${s.name}: times a day`}
          value={s.per_day}
          dimension="rate"
          path={`/day/sessions/${i}/per_day`}
          positive
          onCommit={(v) => v !== null && set(`${s.name}: times a day`, (d) => (d.sessions[i]!.per_day = v))}
        />
      </div>
      <span className="text-soft py-1">× a day</span>
    </>
  );
}

export function WakeLength({ i }: { i: number }) {
  const w = useOpenDesign().day.wakes[i]!;
  const set = useDayChange();
  return (
    <QuantityField
      bare
      label={`${w.name}: how long`}
      value={w.awake_s}
      dimension="time"
      path={`/day/wakes/${i}/awake_s`}
      positive
      onCommit={(v) => v !== null && set(`${w.name}: length`, (d) => (d.wakes[i]!.awake_s = v))}
    />
  );
}

export function WakeOften({ i }: { i: number }) {
  const w = useOpenDesign().day.wakes[i]!;
  const set = useDayChange();
  return (
    <>
      <span className="text-soft py-1">every</span>
      <div className="w-28">
        <QuantityField
          bare
          label={`${w.name}: interval`}
          value={w.every_s}
          dimension="time"
          path={`/day/wakes/${i}/every_s`}
          positive
          onCommit={(v) => v !== null && set(`${w.name}: interval`, (d) => (d.wakes[i]!.every_s = v))}
        />
      </div>
    </>
  );
}

/** How long and how often a mode happens, in one text: "2 s every 15 min" wakes it, "10 min twice a day" is a session. What it was before, on which
 * days and after which start stays. */
export function OccasionField({
  mode,
  said,
  label = "How long and how often",
}: {
  mode: { id: string; name: string };
  said: string;
  label?: string;
}) {
  const set = useDayChange();
  const take = async (text: string) => {
    if (!text.trim())
      return set(`${mode.name} in the day`, (d) => {
        d.sessions = d.sessions.filter((e) => e.mode !== mode.id);
        d.wakes = d.wakes.filter((e) => e.mode !== mode.id);
      });
    const read = await ask(client.GET("/api/occasion", { params: { query: { text } } }));
    set(`${mode.name} in the day`, (d) => happen(d, mode, read));
  };
  return (
    <SaidField
      label={label}
      value={said}
      placeholder="2 s every 15 min, 10 min twice a day"
      path={`/day/of/${mode.id}`}
      onCommit={take}
    />
  );
}

function happen(day: Design["day"], mode: { id: string; name: string }, read: Schemas["Occasion"]) {
  const session = day.sessions.find((e) => e.mode === mode.id);
  const wake = day.wakes.find((e) => e.mode === mode.id);
  const was = session ?? wake;
  const ids = [...day.sessions, ...day.wakes].map((e) => e.id);
  const kept = {
    id: was?.id ?? freshId(mode.id, ids),
    name: was?.name ?? mode.name,
    mode: mode.id,
    days: was?.days ?? [],
    months: was?.months ?? [],
    before: was?.before ?? null,
  };
  if (read.every_s != null) {
    const made = { ...kept, every_s: read.every_s, awake_s: read.seconds, from_h: wake?.from_h, to_h: wake?.to_h };
    day.sessions = day.sessions.filter((e) => e !== session);
    if (wake) day.wakes[day.wakes.indexOf(wake)] = made;
    else day.wakes.push(made);
  } else {
    const at_h = read.at_h ?? [];
    const why = at_h.length ? "planned" : (session?.why ?? "planned");
    const made = { ...session, ...kept, seconds: read.seconds, per_day: read.per_day ?? 1, at_h, why } as const;
    day.wakes = day.wakes.filter((e) => e !== wake);
    if (session) day.sessions[day.sessions.indexOf(session)] = made;
    else day.sessions.push(made);
  }
}
