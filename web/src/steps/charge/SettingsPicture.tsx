// Resistor or step → current → C-rate → time: one row for each value that can be soldered.
import type { Schemas } from "../../api/client";
import { useDesign } from "../../design/store";
import { show } from "../../ui/format";
import { FILL } from "./fill";

type Setting = Schemas["Setting"];

export function SettingsPicture({ settings }: { settings: Setting[] }) {
  const edit = useDesign((s) => s.edit);
  const top = Math.max(...settings.map((s) => s.c_rate));
  const use = (s: Setting) =>
    edit(s.ohm === null ? "Charge current" : "Setting resistor", (d) => {
      if (!d.charger) return;
      if (s.ohm === null) d.charger.fixed_a = s.current_a;
      else Object.assign(d.charger, { program_ohm: s.ohm, fixed_a: null });
    });
  return (
    <table className="w-full text-[0.9375rem]">
      <thead className="text-soft text-sm">
        <tr>
          <th className="pb-1 text-left font-normal">{settings[0]?.ohm == null ? "step" : "resistor"}</th>
          <th className="pb-1 text-left font-normal">current and C-rate</th>
          <th className="pb-1 text-right font-normal">full in</th>
          <th className="pb-1 text-right font-normal">air inside, as usual</th>
        </tr>
      </thead>
      <tbody>
        {settings.map((s) => (
          <tr key={s.ohm ?? s.current_a} className={`border-line/60 border-t ${s.chosen ? "bg-well/60" : ""}`}>
            <td className="py-0.5 pr-2">
              <button
                type="button"
                disabled={s.chosen}
                onClick={() => use(s)}
                className="enabled:hover:text-ember-ink min-h-7 tabular-nums underline-offset-2 enabled:underline enabled:decoration-dotted disabled:font-semibold"
                aria-label={`Set ${s.ohm === null ? show(s.current_a, "A") : show(s.ohm, "Ω")}`}
              >
                {s.ohm === null ? show(s.current_a, "A") : show(s.ohm, "Ω")}
              </button>
            </td>
            <td className="w-2/5 py-0.5">
              <div className="flex items-center gap-2">
                <div className="bg-well h-2.5 min-w-16 flex-1 rounded-full" aria-hidden>
                  <div
                    className={`h-full rounded-full ${FILL[s.status]}`}
                    style={{ width: `${(s.c_rate / top) * 100}%` }}
                  />
                </div>
                <span className="w-28 tabular-nums">
                  {s.ohm === null ? "" : show(s.current_a, "A")}{" "}
                  {s.c_rate < 99.5 ? s.c_rate.toPrecision(2) : Math.round(s.c_rate)} C
                </span>
              </div>
            </td>
            <td className="py-0.5 pl-2 text-right tabular-nums">
              {s.hours === null ? <span className="text-fail text-sm">{s.words}</span> : show(s.hours, "h")}
              {s.hours !== null && <span className="sr-only">, {s.words}</span>}
            </td>
            <td className="py-0.5 pl-2 text-right tabular-nums">{show(s.hottest_c, "°C")}</td>
          </tr>
        ))}
      </tbody>
      <tfoot className="text-soft text-sm">
        <tr>
          <td colSpan={4} className="pt-2">
            Green: gentle to the cell. Violet: allowed. Red: too much for it, or it does not end well.
          </td>
        </tr>
      </tfoot>
    </table>
  );
}
