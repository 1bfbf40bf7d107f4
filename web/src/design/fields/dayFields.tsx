// How long and how often something happens in the day: the same fields wherever they are read.
import { useDesign, useOpenDesign } from "../store";
import type { Design } from "../types";
import { QuantityField } from "./fields";
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
