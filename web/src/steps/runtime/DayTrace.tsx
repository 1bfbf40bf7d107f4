// One day event by event at the battery: voltage between its lowest and highest, current beneath.
import { scaleLinear } from "d3-scale";
import { area } from "d3-shape";
import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { Button } from "../../ui/controls";
import { Answered, useAnswer } from "../../design/fields/answer";
import { clock, show } from "../../ui/format";
import { besideLevels, Levels, Chart, fitted, textWidth, type Frame } from "../../ui/chart";
import { Picture } from "../../ui/picture";

const CHARGES = [
  [0.95, "nearly full"],
  [0.5, "half full"],
  [0.15, "nearly empty"],
] as const;

export function DayTrace() {
  const [charge, setCharge] = useState<number>(0.5);
  const asking = useAnswer(["day", charge], (design, signal) =>
    ask(client.POST("/api/answers/day", { params: { query: { charge } }, body: design, signal })),
  );
  return (
    <>
      <div className="mb-2 flex flex-wrap gap-1.5" role="group" aria-label="State of charge at midnight">
        {CHARGES.map(([value, name]) => (
          <Button
            key={value}
            kind={value === charge ? "strong" : "plain"}
            aria-pressed={value === charge}
            onClick={() => setCharge(value)}
          >
            {name}
          </Button>
        ))}
      </div>
      <Answered
        asking={asking}
        waiting="Going through the day"
        nothing="Add a part in Draw, and its day is drawn here."
      >
        {(trace) => <Trace trace={trace} />}
      </Answered>
    </>
  );
}

function Trace({ trace }: { trace: Schemas["DayTrace"] }) {
  return (
    <>
      <p className="text-soft mb-1 text-sm">{trace.sentence}</p>
      <Picture
        words={["state-of-charge", "wake-source", "peak"]}
        name="day"
        label={`Battery voltage and current over one day. ${trace.sentence}`}
        table={{
          head: ["hour [h]", "lowest voltage [V]", "highest voltage [V]", "mean current [A]", "highest current [A]"],
          rows: trace.hours.map((hour, i) => [
            hour,
            trace.low_v[i] ?? null,
            trace.high_v[i] ?? null,
            trace.mean_a[i] ?? null,
            trace.peak_a[i] ?? null,
          ]),
        }}
      >
        <Chart tall={220}>{(frame) => <Drawing frame={frame} trace={trace} />}</Chart>
      </Picture>
    </>
  );
}

function Drawing({ frame: { width, em }, trace }: { frame: Frame; trace: Schemas["DayTrace"] }) {
  const size = 11.5 * em;
  const points = trace.hours.map((_, i) => i);
  const [base, middle] = [194 * em, 146 * em];
  const volts = scaleLinear([Math.min(...trace.low_v), Math.max(...trace.high_v)], [118 * em, 12 * em]).nice(3);
  const amps = scaleLinear([0, Math.max(...trace.peak_a, 1e-9)], [base, middle]);
  const names = [...volts.ticks(4).map((v) => show(v, "V")), show(amps.domain()[1], "A")];
  const left = besideLevels(names, size);
  const right = width - 6 * em;
  const x = scaleLinear([0, 24], [left, right]);
  const small = { fontSize: size, fill: "var(--soft)" };
  const at = (i: number) => x(trace.hours[i] ?? 0);
  const band = area<number>(
    at,
    (i) => volts(trace.low_v[i] ?? 0),
    (i) => Math.min(volts(trace.high_v[i] ?? 0), volts(trace.low_v[i] ?? 0) - 1.5),
  )(points);
  const bar = (right - left) / trace.hours.length;
  const room = (right - left) / textWidth("24:00", size);
  const hours = room > 6.5 ? [0, 6, 12, 18, 24] : room > 3.8 ? [0, 12, 24] : [0, 24];
  return (
    <>
      <Levels ticks={volts.ticks(4)} scale={volts} named={(v) => show(v, "V")} left={left} right={right} size={size} />
      <path d={band ?? ""} fill="var(--ember)" opacity="0.800" />
      {points.map((i) => (
        <rect
          key={i}
          x={at(i)}
          width={Math.max(bar, 0.5)}
          y={amps(trace.peak_a[i] ?? 0)}
          height={base - amps(trace.peak_a[i] ?? 0)}
          fill="var(--ember)"
          opacity="0.350"
        />
      ))}
      <text x={left - 6 * em} y={middle + 8 * em} textAnchor="end" {...small}>
        {show(amps.domain()[1], "A")}
      </text>
      <text x={left + 4 * em} y={middle - 7 * em} {...small}>
        {fitted("highest current in five minutes", right - left - 8 * em, size)}
      </text>
      {hours.map((h) => (
        <text
          key={h}
          x={x(h)}
          y={base + 18 * em}
          textAnchor={h === 24 ? "end" : h === 0 ? "start" : "middle"}
          {...small}
        >
          {h === 24 ? "24:00" : clock(h)}
        </text>
      ))}
    </>
  );
}
