// The 24 hours: what is drawn by the half hour, and the sessions at their times, moved and stretched directly.
import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { useDesign, useOpenDesign, useShown } from "../../design/store";
import type { Design } from "../../design/types";
import { useDrag } from "../../ui/drag";
import { Button } from "../../ui/controls";
import { clock, show } from "../../ui/format";
import { freeHour, lasts, room, snapped, starts, STEP_H, when, type Start } from "./clock";

const HOURS = [0, 3, 6, 9, 12, 15, 18, 21, 24];
const WHY = { planned: "at any hour", random: "at random", accident: "by accident" };
const percent = (hour: number) => `${(hour / 24) * 100}%`;

export function ClockStrip() {
  const { day } = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const all = starts(day.sessions);
  const loose = day.sessions.map((s, i) => ({ s, i })).filter(({ s }) => !s.at_h.length);
  const giveTime = (i: number) =>
    edit(`${day.sessions[i]!.name}: a time`, (d) => {
      const s = d.day.sessions[i]!;
      Object.assign(s, { at_h: [freeHour(all, lasts(s))], per_day: 1, why: "planned" });
    });
  return (
    <div>
      <Bars />
      {day.sessions.length > 0 && <Lane all={all} />}
      <Windows wakes={day.wakes} />
      <div className="text-soft relative mt-0.5 h-5 text-xs" aria-hidden>
        {HOURS.map((h) => (
          <span
            key={h}
            className="absolute"
            style={{ left: percent(h), transform: `translateX(${h === 0 ? 0 : h === 24 ? -100 : -50}%)` }}
          >
            {h === 24 ? "24:00" : clock(h)}
          </span>
        ))}
      </div>
      {loose.length > 0 && (
        <ul className="text-soft mt-1 flex flex-wrap items-center gap-x-4 gap-y-1 text-sm" aria-label="At any hour">
          {loose.map(({ s, i }) => (
            <li key={i} className="flex items-center gap-1.5">
              <span>
                <span className="text-ink">{s.name}</span>, {s.per_day} × a day {WHY[s.why]}
              </span>
              {s.why === "planned" && (
                <Button kind="quiet" onClick={() => giveTime(i)}>
                  Give it a time
                </Button>
              )}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

/** Mean battery current by the half hour. */
function Bars() {
  const shown = useShown();
  if (!shown) return null;
  const slots = shown.day.slots_a;
  const most = Math.max(...slots, 1e-12);
  return (
    <div
      className="relative h-20 pt-4"
      role="img"
      aria-label={`Mean current by the half hour, at most ${show(most, "A")} at ${clock((slots.indexOf(most) * 24) / slots.length)}`}
    >
      <svg viewBox={`0 0 ${slots.length} 20`} preserveAspectRatio="none" className="h-full w-full">
        {slots.map((a, i) => (
          <rect
            key={i}
            x={i + 0.08}
            width="0.840"
            y={20 - (a / most) * 19}
            height={(a / most) * 19}
            fill="var(--ember)"
            opacity="0.750"
          />
        ))}
      </svg>
      <span className="text-soft absolute top-0 left-0 text-xs leading-4">
        up to {show(most, "A")}, mean of the half hour
      </span>
    </div>
  );
}

type Move = { start: Start; at: number; seconds: number };
type Grip = { start: Start; seconds: number; stretch: boolean };

function Lane({ all }: { all: Start[] }) {
  const { day, modes } = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const lane = useRef<HTMLDivElement>(null);
  const [moved, setMoved] = useState<Move | null>(null);

  const commit = ({ start, at, seconds }: Move) => {
    const s = day.sessions[start.session]!;
    edit(`${s.name}: ${clock(at)}`, (d: Design) => {
      const own = d.day.sessions[start.session]!;
      own.at_h[start.k] = at;
      own.seconds = seconds;
    });
  };
  /** Within its neighbours and the day, in steps of five minutes. */
  const placed = (start: Start, at: number, seconds: number, stretch: boolean): Move => {
    const [low, high] = room(all, start);
    const fixed = start.hours - day.sessions[start.session]!.seconds / 3600;
    if (stretch) {
      const longest = (high - start.at - fixed) * 3600;
      const wanted = Math.max(STEP_H, snapped(seconds / 3600)) * 3600;
      return { start, at: start.at, seconds: Math.round(Math.min(wanted, longest)) };
    }
    const top = Math.min(high - start.hours, 24 - STEP_H);
    const own = day.sessions[start.session]!.seconds;
    return { start, at: Math.min(Math.max(snapped(at), low), Math.max(top, low)), seconds: own };
  };
  const { take, handlers } = useDrag<Grip>({
    move: (g, { dx }) => {
      const hours = (dx / (lane.current?.clientWidth || 1)) * 24;
      setMoved(placed(g.start, g.start.at + hours, g.seconds + hours * 3600, g.stretch));
    },
    end: (g, kept) => {
      setMoved(null);
      if (kept && moved && (moved.at !== g.start.at || moved.seconds !== g.seconds)) commit(moved);
    },
  });
  const down = (e: PointerEvent<HTMLElement>, start: Start, stretch: boolean) => {
    e.stopPropagation();
    take(e, { start, seconds: day.sessions[start.session]!.seconds, stretch });
  };
  const keys = (e: KeyboardEvent, start: Start) => {
    const session = day.sessions[start.session]!;
    const step = { ArrowLeft: -STEP_H, ArrowRight: STEP_H }[e.key];
    if (step !== undefined) commit(placed(start, start.at + step, session.seconds + step * 3600, e.shiftKey));
    else if (e.key === "Delete")
      edit(`${session.name}: not at ${clock(start.at)}`, (d) => {
        const own = d.day.sessions[start.session]!;
        own.at_h.splice(start.k, 1);
        own.per_day = own.at_h.length || 1;
      });
    else return;
    e.preventDefault();
  };
  return (
    <div ref={lane} className="border-line bg-well/60 relative h-16 rounded-md border">
      {HOURS.slice(1, -1).map((h) => (
        <span key={h} className="bg-line/70 absolute inset-y-0 w-px" style={{ left: percent(h) }} aria-hidden />
      ))}
      {[...all]
        .sort((a, b) => a.at - b.at)
        .map((start, place) => {
          const s = day.sessions[start.session]!;
          const now = moved?.start.session === start.session && moved.start.k === start.k ? moved : null;
          const at = now?.at ?? start.at;
          const hours = start.hours + ((now?.seconds ?? s.seconds) - s.seconds) / 3600;
          const mode = modes.find((m) => m.id === s.mode)?.name ?? s.mode;
          const days = when(s);
          return (
            <div
              key={`${start.session} ${start.k}`}
              role="button"
              tabIndex={0}
              aria-label={`${s.name}, ${mode}, ${clock(at)} to ${clock(at + hours)}${days ? `, ${days}` : ""}. Arrows move it, with Shift they stretch it, Delete takes it out`}
              title={`${s.name}: ${clock(at)} to ${clock(at + hours)}${days ? `, ${days}` : ""}`}
              onPointerDown={(e) => down(e, start, false)}
              {...handlers}
              onKeyDown={(e) => keys(e, start)}
              data-testid="clock-session"
              className="border-ember-ink bg-ember/80 text-on-ember absolute inset-y-[1.1875rem] min-w-3 cursor-grab touch-none overflow-visible rounded-sm border select-none active:cursor-grabbing"
              style={{ left: percent(at), width: percent(Math.min(hours, 24 - at)), opacity: days ? 0.75 : 1 }}
            >
              <span
                className="absolute inset-y-0 -right-1.5 w-3 cursor-ew-resize touch-none"
                onPointerDown={(e) => down(e, start, true)}
                {...handlers}
                aria-hidden
              />
              <span
                className={`text-ink pointer-events-none absolute text-xs leading-4 whitespace-nowrap ${place % 2 ? "top-full mt-0.5" : "bottom-full mb-0.5"} ${at > 16 ? "right-0" : "left-0"}`}
              >
                {s.name} {clock(at)}
              </span>
            </div>
          );
        })}
      {all
        .filter((start) => start.at + start.hours > 24)
        .map((start) => (
          <span
            key={`${start.session} ${start.k}`}
            data-testid="past-midnight"
            title={`${day.sessions[start.session]!.name}, past midnight`}
            className="border-ember-ink bg-ember/80 absolute inset-y-5 left-0 rounded-r-sm border border-l-0"
            style={{ width: percent(start.at + start.hours - 24) }}
          />
        ))}
      {!all.length && (
        <p className="text-soft flex h-full items-center justify-center text-sm">
          No session has a time of its own: they are spread over the day.
        </p>
      )}
    </div>
  );
}

/** When wakes with a window of their own may come. */
function Windows({ wakes }: { wakes: Design["day"]["wakes"] }) {
  const rows = wakes.filter((w) => w.from_h != null && w.to_h != null);
  return (
    <>
      {rows.map((w) => {
        const [from, to] = [w.from_h!, w.to_h!];
        const spans =
          from < to
            ? [[from, to]]
            : [
                [from, 24],
                [0, to],
              ];
        return (
          <div key={w.id} className="relative mt-1 h-4" title={`${w.name}: ${clock(from)} to ${clock(to)}`}>
            {spans.map(([a, b]) => (
              <span
                key={a}
                className="bg-ember/25 text-ink absolute inset-y-0 overflow-hidden rounded-sm px-1 text-[0.6875rem] leading-4 whitespace-nowrap"
                style={{ left: percent(a!), width: percent(b! - a!) }}
              >
                {w.name}
              </span>
            ))}
          </div>
        );
      })}
    </>
  );
}
