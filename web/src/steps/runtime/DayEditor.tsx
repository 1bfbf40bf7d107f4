// The day as typed rules: sessions, wakes, and rest for all other time. A row opens to say when, why and how it starts.
import { ChevronDown, ChevronRight, Plus, Trash2 } from "lucide-react";
import { Fragment, useState, type ReactNode } from "react";
import { freshId } from "../../design/edits";
import { useOpenDesign, useProblemAt } from "../../design/store";
import { Button, Choice, IconButton } from "../../ui/controls";
import { QuantityField, TextField } from "../../design/fields/fields";
import {
  SessionLength,
  SessionOften,
  useDayChange,
  WakeLength,
  WakeOften,
  type Change,
} from "../../design/fields/dayFields";
import { clock } from "../../ui/format";
import { when, type Session, type Wake } from "./clock";
import { SessionDetails, WakeDetails } from "./EventDetails";

const ALWAYS = { days: [], months: [], before: null };

export function DayEditor() {
  const design = useOpenDesign();
  const { day } = design;
  const modes = design.modes.map((m) => [m.id, m.name] as const);
  const set = useDayChange();
  const busy = design.modes.find((m) => m.id !== day.rest)?.id ?? day.rest;
  return (
    <div className="space-y-3">
      <div className="relative overflow-x-auto">
        <table className="w-full min-w-[38rem] text-left text-[0.9375rem]">
          <thead className="text-soft text-sm">
            <tr>
              <th className="w-8">
                <span className="sr-only">More</span>
              </th>
              <th className="pb-1 font-normal">What happens</th>
              <th className="pb-1 font-normal">Mode</th>
              <th className="pb-1 font-normal">How long</th>
              <th className="pb-1 font-normal">How often</th>
              <th className="w-8">
                <span className="sr-only">Remove</span>
              </th>
            </tr>
          </thead>
          <tbody className="[&_td]:pr-2 [&_td]:pb-1.5 [&_td]:align-top">
            {day.sessions.map((s, i) => (
              <SessionRow key={s.id} session={s} i={i} modes={modes} set={set} />
            ))}
            {day.wakes.map((w, i) => (
              <WakeRow key={w.id} wake={w} i={i} modes={modes} set={set} />
            ))}
            <tr>
              <td />
              <td className="text-soft py-1">All other time</td>
              <td>
                <Choice
                  bare
                  label="Rest mode"
                  value={day.rest}
                  options={modes}
                  onChange={(v) => set("Rest mode", (d) => (d.rest = v))}
                />
              </td>
              <td colSpan={3}>
                <Choice
                  bare
                  label="What resting is"
                  value={
                    day.rest_works === null || day.rest_works === undefined ? "" : day.rest_works ? "works" : "sleeps"
                  }
                  options={[
                    ["", "asleep or at work: judged by what it draws"],
                    ["sleeps", "it sleeps then"],
                    ["works", "it works then: always on"],
                  ]}
                  onChange={(v) => set("What resting is", (d) => (d.rest_works = v === "" ? null : v === "works"))}
                />
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <div className="flex flex-wrap items-end gap-2">
        <Button
          onClick={() =>
            set("Add a session", (d) =>
              d.sessions.push({
                ...ALWAYS,
                id: freshId(
                  "session",
                  d.sessions.map((e) => e.id),
                ),
                name: "New session",
                mode: busy,
                seconds: 600,
                per_day: 1,
                at_h: [],
                why: "planned",
              }),
            )
          }
        >
          <Plus size={15} aria-hidden /> Session
        </Button>
        <Button
          onClick={() =>
            set("Add a wake", (d) =>
              d.wakes.push({
                ...ALWAYS,
                id: freshId(
                  "wake",
                  d.wakes.map((e) => e.id),
                ),
                name: "New wake",
                mode: busy,
                every_s: 600,
                awake_s: 1,
              }),
            )
          }
        >
          <Plus size={15} aria-hidden /> Wake
        </Button>
        <div className="ml-auto w-44">
          <QuantityField
            label="What is kept is saved every"
            value={day.saved_every_s}
            dimension="time"
            optional
            path="/day/saved_every_s"
            onCommit={(v) => set("Saving", (d) => (d.saved_every_s = v))}
          />
        </div>
      </div>
    </div>
  );
}

type Modes = (readonly [string, string])[];

function SessionRow({ session: s, i, modes, set }: { session: Session; i: number; modes: Modes; set: Change }) {
  const note = [
    { planned: "", random: "at random", accident: "by accident" }[s.why],
    when(s),
    s.before ? "boots first" : "",
    s.after ? "with a timeout" : "",
  ];
  return (
    <EventRow
      name={s.name}
      note={note}
      path={`/day/sessions/${i}`}
      rename={(v) => set("Rename", (d) => (d.sessions[i]!.name = v))}
      remove={() => set(`Remove ${s.name}`, (d) => d.sessions.splice(i, 1))}
      mode={
        <Choice
          bare
          label={`${s.name}: mode`}
          value={s.mode}
          options={modes}
          onChange={(v) => set("Mode of a session", (d) => (d.sessions[i]!.mode = v))}
        />
      }
      length={<SessionLength i={i} />}
      often={<SessionOften i={i} />}
      details={<SessionDetails i={i} />}
    />
  );
}

function WakeRow({ wake: w, i, modes, set }: { wake: Wake; i: number; modes: Modes; set: Change }) {
  const window = w.from_h != null && w.to_h != null ? `${clock(w.from_h)} to ${clock(w.to_h)}` : "";
  return (
    <EventRow
      name={w.name}
      note={[window, when(w), w.before ? "boots first" : ""]}
      path={`/day/wakes/${i}`}
      rename={(v) => set("Rename", (d) => (d.wakes[i]!.name = v))}
      remove={() => set(`Remove ${w.name}`, (d) => d.wakes.splice(i, 1))}
      mode={
        <Choice
          bare
          label={`${w.name}: mode`}
          value={w.mode}
          options={modes}
          onChange={(v) => set("Mode of a wake", (d) => (d.wakes[i]!.mode = v))}
        />
      }
      length={<WakeLength i={i} />}
      often={<WakeOften i={i} />}
      details={<WakeDetails i={i} />}
    />
  );
}

function EventRow(props: {
  name: string;
  note: string[];
  path: string;
  rename: (name: string) => void;
  remove: () => void;
  mode: ReactNode;
  length: ReactNode;
  often: ReactNode;
  details: ReactNode;
}) {
  const { name, path, details } = props;
  const [open, setOpen] = useState(false);
  const own = useProblemAt(path);
  const times = useProblemAt(`${path}/at_h`);
  const problem = own ?? times;
  const note = props.note.filter(Boolean).join(" · ");
  return (
    <Fragment>
      <tr>
        <td>
          <IconButton
            label={`${name}: when, why and how it starts`}
            aria-expanded={open}
            onClick={() => setOpen(!open)}
          >
            {open ? <ChevronDown size={16} /> : <ChevronRight size={16} />}
          </IconButton>
        </td>
        <td>
          <TextField bare label={`Name of ${name}`} value={name} required onCommit={props.rename} />
          {note && !open && <p className="text-soft mt-0.5 text-xs">{note}</p>}
          {problem && (
            <p role="alert" className="text-fail mt-0.5 text-sm">
              {problem}
            </p>
          )}
        </td>
        <td>{props.mode}</td>
        <td>{props.length}</td>
        <td>
          <div className="flex items-center gap-2">{props.often}</div>
        </td>
        <td>
          <IconButton label={`Remove ${name}`} onClick={props.remove}>
            <Trash2 size={15} />
          </IconButton>
        </td>
      </tr>
      {open && (
        <tr>
          <td />
          <td colSpan={5}>
            <div className="bg-well/50 rounded-md p-3">{details}</div>
          </td>
        </tr>
      )}
    </Fragment>
  );
}
