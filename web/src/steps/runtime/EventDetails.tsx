// What one row of the day says beyond its length: when it comes, why, what it starts and ends with.
import { Plus, X } from "lucide-react";
import { useDesign, useOpenDesign } from "../../design/store";
import type { Design } from "../../design/types";
import { Button, Choice, IconButton, Toggles } from "../../ui/controls";
import { QuantityField } from "../../design/fields/fields";
import { clock } from "../../ui/format";
import { freeHour, lasts, MONTHS, starts, WEEKDAYS, type Session } from "./clock";

const WHY = [
  ["planned", "planned"],
  ["random", "at random, so often on average"],
  ["accident", "by accident: nobody meant it"],
] as const;
const DAY_OPTIONS = WEEKDAYS.map((name, i) => [String(i), name] as const);
const MONTH_OPTIONS = MONTHS.map((name, i) => [String(i + 1), name] as const);

type Event = Pick<Session, "days" | "months" | "before">;

export function SessionDetails({ i }: { i: number }) {
  const { day } = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const session = day.sessions[i]!;
  const set = (label: string, work: (s: Session) => void) =>
    edit(`${session.name}: ${label}`, (d) => work(d.day.sessions[i]!));
  return (
    <div className="space-y-3">
      <div className="grid gap-3 sm:grid-cols-2">
        <Choice
          label="Why it comes"
          value={session.why}
          options={WHY}
          onChange={(v) =>
            set("why", (s) => {
              s.why = v;
              if (v !== "planned") s.at_h = [];
            })
          }
        />
        {session.why === "planned" && <Times session={session} set={set} all={day.sessions} />}
      </div>
      <Pattern event={session} set={set} />
      <div className="grid gap-3 sm:grid-cols-2">
        <StretchFields
          title="Starts with"
          none="nothing: it is there at once"
          value={session.before}
          path={`/day/sessions/${i}/before`}
          onChange={(v) => set("how it starts", (s) => (s.before = v))}
        />
        <StretchFields
          title="Ends with"
          none="nothing: it rests at once"
          value={session.after}
          path={`/day/sessions/${i}/after`}
          onChange={(v) => set("timeout", (s) => (s.after = v))}
        />
      </div>
    </div>
  );
}

export function WakeDetails({ i }: { i: number }) {
  const { day } = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const wake = day.wakes[i]!;
  const set = (label: string, work: (w: Design["day"]["wakes"][number]) => void) =>
    edit(`${wake.name}: ${label}`, (d) => work(d.day.wakes[i]!));
  return (
    <div className="space-y-3">
      <div className="grid gap-3 sm:grid-cols-4">
        {(["from_h", "to_h"] as const).map((key) => (
          <QuantityField
            key={key}
            label={key === "from_h" ? "Only from" : "Only until"}
            value={wake[key]}
            dimension="clock"
            optional
            placeholder="all day"
            path={`/day/wakes/${i}/${key}`}
            onCommit={(v) =>
              set("hours", (w) => {
                const [from, to] = key === "from_h" ? [v, w.to_h ?? 22] : [w.from_h ?? 6, v];
                Object.assign(w, v === null ? { from_h: null, to_h: null } : { from_h: from, to_h: to });
              })
            }
          />
        ))}
        <div className="sm:col-span-2">
          <StretchFields
            title="Starts with"
            none="nothing: it is there at once"
            value={wake.before}
            path={`/day/wakes/${i}/before`}
            onChange={(v) => set("how it starts", (w) => (w.before = v))}
          />
        </div>
      </div>
      <Pattern event={wake} set={set} />
    </div>
  );
}

/** Starting times by the clock; none: at any hour. */
function Times({
  session,
  set,
  all,
}: {
  session: Session;
  set: (label: string, work: (s: Session) => void) => void;
  all: Session[];
}) {
  const change = (label: string, work: (at: number[]) => void) =>
    set(label, (s) => {
      work(s.at_h);
      s.per_day = s.at_h.length || 1;
    });
  return (
    <fieldset className="min-w-0">
      <legend className="text-soft mb-0.5 text-sm">Starts at</legend>
      <div className="flex flex-wrap items-start gap-2">
        {session.at_h.map((at, k) => (
          <div key={k} className="flex items-start">
            <div className="w-20">
              <QuantityField
                bare
                label={`${session.name}: start ${k + 1}`}
                value={at}
                dimension="clock"
                onCommit={(v) => v !== null && change(`at ${clock(v)}`, (list) => (list[k] = v))}
              />
            </div>
            <IconButton label={`Not at ${clock(at)}`} onClick={() => change("one time less", (l) => l.splice(k, 1))}>
              <X size={14} />
            </IconButton>
          </div>
        ))}
        <Button onClick={() => change("one time more", (l) => l.push(freeHour(starts(all), lasts(session))))}>
          <Plus size={14} aria-hidden /> Time
        </Button>
        {!session.at_h.length && <span className="text-soft py-1 text-sm">any hour</span>}
      </div>
    </fieldset>
  );
}

function Pattern({ event, set }: { event: Event; set: (label: string, work: (e: Event) => void) => void }) {
  return (
    <div className="grid gap-3 lg:grid-cols-2">
      <Toggles
        label="Only on (none chosen: every day)"
        options={DAY_OPTIONS}
        chosen={event.days.map(String)}
        onChange={(v) => set("days", (e) => (e.days = v.map(Number).sort((a, b) => a - b)))}
      />
      <Toggles
        label="Only in (none chosen: all the year)"
        options={MONTH_OPTIONS}
        chosen={event.months.map(String)}
        onChange={(v) => set("months", (e) => (e.months = v.map(Number).sort((a, b) => a - b)))}
      />
    </div>
  );
}

type Stretch = { mode: string; seconds: number };

function StretchFields({
  title,
  none,
  value,
  path,
  onChange,
}: {
  title: string;
  none: string;
  value: Stretch | null | undefined;
  path: string;
  onChange: (value: Stretch | null) => void;
}) {
  const { modes, day } = useOpenDesign();
  const options = [["", none] as const, ...modes.map((m) => [m.id, `${m.name} for …`] as const)];
  const usual = modes.find((m) => m.id !== day.rest)?.id ?? day.rest;
  return (
    <div className={`grid gap-2 ${value ? "grid-cols-[1fr_7rem]" : ""}`}>
      <Choice
        label={title}
        value={value?.mode ?? ""}
        options={options}
        onChange={(mode) => onChange(mode ? { mode, seconds: value?.seconds ?? 30 } : null)}
      />
      {value && (
        <QuantityField
          label="for"
          value={value.seconds}
          dimension="time"
          path={`${path}/seconds`}
          positive
          onCommit={(v) => v !== null && onChange({ mode: value.mode || usual, seconds: v })}
        />
      )}
    </div>
  );
}
