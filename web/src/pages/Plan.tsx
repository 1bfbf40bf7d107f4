// The build plan: what to order, print, solder and test, on which days, ticked off and moved; as a calendar too.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { CalendarDays, Copy, Download, Printer } from "lucide-react";
import { useState } from "react";
import { useParams } from "react-router";
import { ask, client, type ProblemError, type Schemas } from "../api/client";
import { SidePage } from "../shell/SidePage";
import { PILL, Button, IconButton, INPUT } from "../ui/controls";
import { count } from "../ui/format";
import { Problems } from "../ui/problems";
import { useTitle } from "../ui/title";
import { Message } from "./Message";

type Out = Schemas["PlanOut"];
type State = Schemas["PlanState"];
type Task = Schemas["PlanTask"];

const DAY_MS = 86_400_000;
const dayOf = (iso: string) => Date.parse(iso) / DAY_MS;
const dayName = (iso: string) =>
  new Date(iso).toLocaleDateString("en-GB", { weekday: "short", day: "numeric", month: "short", timeZone: "UTC" });
const today = () => new Date().toLocaleDateString("sv-SE");

export function Plan() {
  const id = Number(useParams()["variantId"]);
  const path = { variant_id: id };
  const queries = useQueryClient();
  const [wanted, setWanted] = useState<State | null>(null);
  const key = ["plan", id];
  const plan = useQuery<Out, ProblemError>({
    queryKey: key,
    queryFn: ({ signal }) => ask(client.GET("/api/variants/{variant_id}/plan", { params: { path }, signal })),
    staleTime: 0,
  });
  const told = { onSuccess: (out: Out) => queries.setQueryData(key, out) };
  const keep = useMutation<Out, ProblemError, State>({
    mutationFn: (body) => ask(client.PUT("/api/variants/{variant_id}/plan", { params: { path }, body })),
    ...told,
  });
  const feed = useMutation<Out, ProblemError, boolean>({
    mutationFn: (on) =>
      ask(
        on
          ? client.POST("/api/variants/{variant_id}/plan/feed", { params: { path } })
          : client.DELETE("/api/variants/{variant_id}/plan/feed", { params: { path } }),
      ),
    ...told,
  });
  useTitle("Build plan");
  if (plan.isError) return <Message title={plan.error.message} />;
  if (!plan.data) return <Message title="Planning" />;
  const { plan: found, feed: secret, role } = plan.data;
  const looks = role === "view";
  const state = wanted ?? plan.data.state; // what is on its way is shown already
  const change = (to: Partial<State>) => {
    const next = { ...state, ...to };
    setWanted(next);
    keep.mutate(next, { onSettled: () => setWanted((now) => (now === next ? null : now)) });
  };
  return (
    <SidePage variant={id} wide="max-w-5xl">
      <h1 className="text-3xl">Build plan</h1>
      <p className="mt-1 text-lg" role="status">
        {found.sentence}
      </p>
      <Problems error={keep.error ?? feed.error} />
      <div className="mt-3 flex flex-wrap items-end gap-x-5 gap-y-2 print:hidden">
        <DateField
          label="Begins on"
          disabled={looks}
          value={state.start}
          onKeep={(start) => start && change({ start })}
        />
        <label className="text-soft text-sm">
          Hours a day at the bench
          <select
            className={`${INPUT} mt-0.5`}
            value={String(state.hours_a_day)}
            onChange={(e) => change({ hours_a_day: Number(e.target.value) })}
          >
            {[...new Set([0.5, 1, 2, 3, 4, 6, 8, state.hours_a_day ?? 2])]
              .sort((a, b) => a - b)
              .map((h) => (
                <option key={h} value={h}>
                  {h}
                </option>
              ))}
          </select>
        </label>
        <DateField
          label="Has to be done by"
          disabled={looks}
          value={state.wanted ?? ""}
          onKeep={(wanted) => change({ wanted: wanted || null })}
        />
        <span className="ml-auto flex flex-wrap gap-2">
          <Button onClick={() => window.print()}>
            <Printer size={15} aria-hidden /> Print
          </Button>
          <a className={PILL} href={`/api/variants/${id}/plan.ics`} download>
            <Download size={14} aria-hidden /> Calendar file
          </a>
          <Button onClick={() => feed.mutate(secret === null)} busy={feed.isPending}>
            <CalendarDays size={15} aria-hidden /> {secret === null ? "Calendar feed" : "Take the feed back"}
          </Button>
        </span>
      </div>
      {secret !== null && <Feed secret={secret} />}
      <fieldset disabled={looks} className="contents">
        <Tasks tasks={found.tasks} now={found.today} state={state} change={change} />
      </fieldset>
    </SidePage>
  );
}

function Feed({ secret }: { secret: string }) {
  const [copied, setCopied] = useState(false);
  const address = `${window.location.origin}/api/calendars/${secret}.ics`;
  return (
    <div className="mt-2 flex items-center gap-1.5 text-sm print:hidden">
      <input
        readOnly
        className={INPUT}
        aria-label="Address of the calendar"
        value={address}
        onFocus={(e) => e.target.select()}
      />
      <IconButton
        label="Copy the address"
        onClick={() => void navigator.clipboard.writeText(address).then(() => setCopied(true))}
      >
        <Copy size={15} />
      </IconButton>
      <span role="status" className="text-soft whitespace-nowrap">
        {copied ? "copied" : "whoever has it sees the plan"}
      </span>
    </div>
  );
}

function DateField({
  label,
  value,
  disabled,
  onKeep,
}: {
  label: string;
  value: string;
  disabled: boolean;
  onKeep: (iso: string) => void;
}) {
  return (
    <label className="text-soft text-sm">
      {label}
      <input
        type="date"
        className={`${INPUT} mt-0.5`}
        value={value}
        disabled={disabled}
        onChange={(e) => onKeep(e.target.value)}
      />
    </label>
  );
}

function Tasks({
  tasks,
  now,
  state,
  change,
}: {
  tasks: readonly Task[];
  now: readonly string[];
  state: State;
  change: (to: Partial<State>) => void;
}) {
  const from = Math.min(...tasks.map((t) => dayOf(t.begins)));
  const to = Math.max(...tasks.map((t) => dayOf(t.ends))) + 1;
  const along = (day: number) => `${((day - from) / Math.max(to - from, 1)) * 100}%`;
  const done = state.done ?? {};
  const moved = state.not_before ?? {};
  const tick = (key: string, on: boolean) => {
    const { [key]: _, ...others } = done;
    change({ done: on ? { ...others, [key]: today() } : others });
  };
  const move = (key: string, iso: string) => {
    const { [key]: _, ...others } = moved;
    change({ not_before: iso ? { ...others, [key]: iso } : others });
  };
  return (
    <ol className="mt-5">
      {tasks.map((t) => (
        <li
          key={t.key}
          className="border-line/60 grid gap-x-4 gap-y-1 border-t py-2.5 sm:grid-cols-[1fr_minmax(9rem,16rem)_9.5rem] print:grid-cols-[1fr_14rem]"
        >
          <label className="flex min-w-0 items-start gap-2.5">
            <input
              type="checkbox"
              className="mt-1 size-4 shrink-0 accent-(--ink)"
              checked={t.key in done}
              onChange={(e) => tick(t.key, e.target.checked)}
            />
            <span className="min-w-0">
              <span className={`font-medium ${t.done === null ? "" : "text-soft line-through"}`}>{t.title}</span>
              {now.includes(t.key) && <span className="text-ember ml-2 text-sm font-semibold">today</span>}
              {t.late_days > 0 && t.done === null && (
                <span className="text-watch ml-2 text-sm">{count(t.late_days, "day")} late</span>
              )}
              <span className="text-soft line-clamp-2 block text-sm print:line-clamp-none">{t.how}</span>
            </span>
          </label>
          <span className="self-center">
            <span aria-hidden className="bg-well relative block h-2.5 rounded-full">
              <span
                className={`absolute h-full rounded-full ${t.done !== null ? "bg-pass/60" : t.slack_days === 0 ? "bg-ember" : "bg-ink/45"}`}
                style={{
                  left: along(dayOf(t.begins)),
                  width: `max(0.5rem, calc(${along(dayOf(t.ends) + 1)} - ${along(dayOf(t.begins))}))`,
                }}
              />
            </span>
            <span className="text-soft text-sm">
              {t.done !== null
                ? `done ${dayName(t.done)}`
                : `${dayName(t.begins)}${t.ends === t.begins ? "" : ` to ${dayName(t.ends)}`}; ${t.slack_days ? `may slip ${count(t.slack_days, "day")}` : "decides the end"}`}
            </span>
          </span>
          <label className={`text-soft text-sm print:hidden ${t.done === null ? "" : "invisible"}`}>
            Not before
            <input
              type="date"
              className={`${INPUT} mt-0.5`}
              aria-label={`Not before: ${t.title}`}
              value={moved[t.key] ?? ""}
              onChange={(e) => move(t.key, e.target.value)}
            />
          </label>
        </li>
      ))}
    </ol>
  );
}
