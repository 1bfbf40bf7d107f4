// The arithmetic of drawing a day: hours, places, the room between sessions.
import type { Design } from "../../design/types";

export type Session = Design["day"]["sessions"][number];
export type Wake = Design["day"]["wakes"][number];

export const WEEKDAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"] as const;
export const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"] as const;
export const STEP_H = 1 / 12; // five minutes

/** A start on the strip: the k-th of a session's times. */
export type Start = { session: number; k: number; at: number; hours: number };

export const lasts = (s: Session): number => (s.seconds + (s.before?.seconds ?? 0) + (s.after?.seconds ?? 0)) / 3600;

export const starts = (sessions: Session[]): Start[] =>
  sessions.flatMap((s, session) => s.at_h.map((at, k) => ({ session, k, at, hours: lasts(s) })));

export const snapped = (hour: number): number => Number((Math.round(hour / STEP_H) * STEP_H).toFixed(6));

/** Where a start may lie between its neighbours on the strip. */
export function room(all: Start[], moving: Start): [number, number] {
  const others = all.filter((o) => o !== moving && !(o.session === moving.session && o.k === moving.k));
  const before = others.filter((o) => o.at <= moving.at).map((o) => o.at + o.hours);
  const after = others.filter((o) => o.at > moving.at).map((o) => o.at);
  return [Math.max(0, ...before), Math.min(24, ...after)];
}

/** The first hour from `from` on at which so many hours are free. */
export function freeHour(all: Start[], hours: number, from = 19): number {
  for (let i = 0; i < 96; i++) {
    const at = (from + i / 4) % 24;
    const clear = all.every((o) => at + hours <= o.at || at >= o.at + o.hours);
    if (clear && at + hours <= 24) return at;
  }
  return from;
}

/** Which days and months an event has, in words; nothing for every day. */
export function when(event: { days: number[]; months: number[] }): string {
  const days = event.days.map((d) => WEEKDAYS[d]).join(", ");
  const months = event.months.map((m) => MONTHS[m - 1]).join(", ");
  return [days, months].filter(Boolean).join(" in ");
}
