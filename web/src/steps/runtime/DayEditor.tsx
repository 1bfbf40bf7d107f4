// The day: sessions, wakes, and rest for all other time; drawn to scale and edited as typed rules.
import { Plus, Trash2 } from "lucide-react";
import { useDesign, useOpenDesign, useShown } from "../../design/store";
import type { Design } from "../../design/types";
import { Button, Choice, IconButton } from "../../ui/controls";
import { QuantityField, TextField } from "../../ui/fields";
import { show } from "../../ui/format";

export function DayEditor() {
  const design = useOpenDesign();
  const edit = useDesign((s) => s.edit);
  const { day } = design;
  const modes = design.modes.map((m) => [m.id, m.name] as const);
  const set = (label: string, work: (d: Design["day"]) => void) => edit(label, (d) => work(d.day));
  const busy = design.modes.find((m) => m.id !== day.rest)?.id ?? day.rest;
  return (
    <div className="space-y-4">
      <DayStrip />
      <div className="relative overflow-x-auto">
        <table className="w-full min-w-[36rem] text-left text-[0.9375rem]">
          <thead className="text-soft text-sm">
            <tr>
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
              <tr key={`s${i}`}>
                <td>
                  <TextField
                    bare
                    label="Name of the session"
                    value={s.name}
                    required
                    onCommit={(v) => set("Rename", (d) => (d.sessions[i]!.name = v))}
                  />
                </td>
                <td>
                  <Choice
                    bare
                    label={`${s.name}: mode`}
                    value={s.mode}
                    options={modes}
                    onChange={(v) => set("Mode of a session", (d) => (d.sessions[i]!.mode = v))}
                  />
                </td>
                <td>
                  <QuantityField
                    bare
                    label={`${s.name}: how long`}
                    value={s.seconds}
                    dimension="time"
                    path={`/day/sessions/${i}`}
                    onCommit={(v) => v && set(`${s.name}: length`, (d) => (d.sessions[i]!.seconds = v))}
                  />
                </td>
                <td className="flex items-center gap-2">
                  <div className="w-20">
                    <QuantityField
                      bare
                      label={`${s.name}: times a day`}
                      value={s.per_day}
                      dimension="cost"
                      path={`/day/sessions/${i}/per_day`}
                      onCommit={(v) => v && set(`${s.name}: times a day`, (d) => (d.sessions[i]!.per_day = v))}
                    />
                  </div>
                  <span className="text-soft py-1">× a day</span>
                </td>
                <td>
                  <IconButton
                    label={`Remove ${s.name}`}
                    onClick={() => set(`Remove ${s.name}`, (d) => d.sessions.splice(i, 1))}
                  >
                    <Trash2 size={15} />
                  </IconButton>
                </td>
              </tr>
            ))}
            {day.wakes.map((w, i) => (
              <tr key={`w${i}`}>
                <td>
                  <TextField
                    bare
                    label="Name of the wake"
                    value={w.name}
                    required
                    onCommit={(v) => set("Rename", (d) => (d.wakes[i]!.name = v))}
                  />
                </td>
                <td>
                  <Choice
                    bare
                    label={`${w.name}: mode`}
                    value={w.mode}
                    options={modes}
                    onChange={(v) => set("Mode of a wake", (d) => (d.wakes[i]!.mode = v))}
                  />
                </td>
                <td>
                  <QuantityField
                    bare
                    label={`${w.name}: how long`}
                    value={w.awake_s}
                    dimension="time"
                    path={`/day/wakes/${i}/awake_s`}
                    onCommit={(v) => v && set(`${w.name}: length`, (d) => (d.wakes[i]!.awake_s = v))}
                  />
                </td>
                <td className="flex items-center gap-2">
                  <span className="text-soft py-1">every</span>
                  <div className="w-28">
                    <QuantityField
                      bare
                      label={`${w.name}: interval`}
                      value={w.every_s}
                      dimension="time"
                      path={`/day/wakes/${i}/every_s`}
                      onCommit={(v) => v && set(`${w.name}: interval`, (d) => (d.wakes[i]!.every_s = v))}
                    />
                  </div>
                </td>
                <td>
                  <IconButton
                    label={`Remove ${w.name}`}
                    onClick={() => set(`Remove ${w.name}`, (d) => d.wakes.splice(i, 1))}
                  >
                    <Trash2 size={15} />
                  </IconButton>
                </td>
              </tr>
            ))}
            <tr>
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
              <td colSpan={3} />
            </tr>
          </tbody>
        </table>
      </div>
      <div className="flex gap-2">
        <Button
          onClick={() =>
            set("Add a session", (d) => d.sessions.push({ name: "New session", mode: busy, seconds: 600, per_day: 1 }))
          }
        >
          <Plus size={15} aria-hidden /> Session
        </Button>
        <Button
          onClick={() =>
            set("Add a wake", (d) => d.wakes.push({ name: "New wake", mode: busy, every_s: 600, awake_s: 1 }))
          }
        >
          <Plus size={15} aria-hidden /> Wake
        </Button>
      </div>
    </div>
  );
}

const SHADES = ["100%", "70%", "45%", "28%", "85%", "58%"];

/** The day as one strip: time on top, charge below; what is short in time may be long in charge. */
function DayStrip() {
  const design = useOpenDesign();
  const shown = useShown();
  if (!shown || !design.parts.length) return null;
  const rows = shown.draw.modes
    .map((m, i) => ({
      id: m.mode,
      name: design.modes.find((x) => x.id === m.mode)?.name ?? m.mode,
      time: m.day_share,
      charge: m.charge_share,
      colour:
        m.mode === design.day.rest
          ? "var(--well)"
          : `color-mix(in srgb, var(--ember) ${SHADES[i % SHADES.length]}, var(--sheet))`,
    }))
    .filter((r) => r.time > 0);
  return (
    <div className="space-y-1">
      {(["time", "charge"] as const).map((what) => (
        <div key={what} className="grid grid-cols-[3.5rem_1fr] items-center gap-2">
          <span className="text-soft text-sm">{what}</span>
          <div className="border-line flex h-6 overflow-hidden rounded-md border">
            {rows.map((r) => (
              <span
                key={r.id}
                title={`${r.name}: ${show(r[what], "share")} of the ${what}`}
                style={{ width: `${r[what] * 100}%`, background: r.colour }}
                className="border-sheet overflow-hidden border-r px-1.5 text-xs leading-6 whitespace-nowrap last:border-r-0"
              >
                {r[what] > 0.09 ? r.name : ""}
              </span>
            ))}
          </div>
        </div>
      ))}
      <ul className="text-soft flex flex-wrap gap-x-5 gap-y-0.5 pt-1 text-sm">
        {rows.map((r) => (
          <li key={r.id} className="flex items-center gap-1.5">
            <span className="border-line size-3 rounded-sm border" style={{ background: r.colour }} aria-hidden />
            <span className="text-ink">{r.name}</span> {show(r.time, "share")} of the time, {show(r.charge, "share")} of
            the charge
          </li>
        ))}
      </ul>
    </div>
  );
}
