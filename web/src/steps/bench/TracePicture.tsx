// A recorded current over time: between the least and the most of each bucket, its mean as a line, the modes beneath. A piece of it is picked by
// dragging, or by its mode; a border between two modes is dragged where it is; the buttons move the window.
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { scaleLinear, scaleLog } from "d3-scale";
import { area, line } from "d3-shape";
import { useState, type Dispatch, type SetStateAction } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { useDesign, useMayChange, useOpenDesign } from "../../design/store";
import { Along, besideLevels, Chart, fitted, Levels, tickCount, textWidth } from "../../ui/chart";
import { Button } from "../../ui/controls";
import { show } from "../../ui/format";
import { Picture } from "../../ui/picture";
import { Problems } from "../../ui/problems";
import { useAssign } from "./assign";

export type Window = { begin: number; end: number };
type Seen = Schemas["TracePicture"];
type Stretch = Schemas["TraceStretch"];

const LEAST_A = 1e-8;
const GRIP = 10; // as wide as a border can be taken hold of

export function TracePicture({
  trace,
  answer,
  window,
  setWindow,
  picked,
  setPicked,
}: {
  trace: Schemas["TraceOut"];
  answer: Schemas["TraceAnswer"];
  window: Window;
  setWindow: (window: Window) => void;
  picked: Window | null;
  setPicked: Dispatch<SetStateAction<Window | null>>;
}) {
  const variant = useDesign((s) => s.variant)!;
  const { begin, end } = window;
  const seen = useQuery<Seen>({
    queryKey: ["trace-picture", trace.id, begin, end],
    queryFn: ({ signal }) =>
      ask(
        client.GET("/api/variants/{variant_id}/traces/{trace_id}/picture", {
          params: {
            path: { variant_id: variant.id, trace_id: trace.id },
            query: { begin_s: begin, end_s: end, points: 800 },
          },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
  const may = useMayChange();
  const { modes } = useOpenDesign();
  const assign = useAssign(trace);
  // what the border gives up belongs to the mode on its other side
  const moveBorder = (left: Stretch, right: Stretch, to_s: number) => {
    const [begin_s, end_s, mode] = to_s < left.end_s ? [to_s, left.end_s, right.mode] : [left.end_s, to_s, left.mode];
    const id = mode === null ? null : (modes[mode]?.id ?? null);
    assign.mutate([...trace.assigned, { begin_s, end_s, mode: id }]);
  };
  const span = end - begin;
  const to = (from: number, long: number) => {
    const wide = Math.min(long, trace.seconds);
    const first = Math.min(Math.max(from, 0), trace.seconds - wide);
    setWindow({ begin: first, end: first + wide });
  };
  const inWindow =
    picked !== null && picked.begin < end && picked.end > begin && (picked.begin > begin || picked.end < end);
  return (
    <div className="mt-2">
      <div role="group" aria-label="Window" className="flex flex-wrap gap-1.5 print:hidden">
        <Button
          kind="quiet"
          onClick={() => (inWindow ? to(picked.begin, picked.end - picked.begin) : to(begin + span / 4, span / 2))}
          disabled={span < 1e-3}
        >
          Closer
        </Button>
        <Button kind="quiet" onClick={() => to(begin - span / 2, span * 2)} disabled={span >= trace.seconds}>
          Wider
        </Button>
        <Button kind="quiet" onClick={() => to(begin - span / 2, span)} disabled={begin <= 0}>
          Earlier
        </Button>
        <Button kind="quiet" onClick={() => to(begin + span / 2, span)} disabled={end >= trace.seconds}>
          Later
        </Button>
        <Button kind="quiet" onClick={() => to(0, trace.seconds)} disabled={span >= trace.seconds}>
          All of it
        </Button>
      </div>
      <Problems error={assign.error} />
      {seen.data && (
        <Drawn
          seen={seen.data}
          answer={answer}
          window={window}
          picked={picked}
          onPick={setPicked}
          onBorder={may ? moveBorder : undefined}
        />
      )}
      {seen.data && (
        <p className="text-soft mt-1 text-sm">
          A point for each {show(seen.data.bucket_s, "s")}.{trace.in_pieces && " Its single samples are not kept."}
        </p>
      )}
    </div>
  );
}

type DrawnProps = {
  seen: Seen;
  answer: Schemas["TraceAnswer"];
  window: Window;
  picked: Window | null;
  onPick: (picked: Window | null) => void;
  onBorder?: (left: Stretch, right: Stretch, to_s: number) => void;
};

function Drawn({ seen, answer, window, picked, onPick, onBorder }: DrawnProps) {
  const { modes } = useOpenDesign();
  const [drag, setDrag] = useState<[number, number] | null>(null);
  const [border, setBorder] = useState<{ at: number; x: number } | null>(null);
  const most = Math.max(...seen.most_a, LEAST_A * 10);
  const least = Math.max(Math.min(...seen.mean_a.filter((a) => a > 0)) / 2, most / 1e7, LEAST_A);
  const name = (mode: number | null) => (mode === null ? "unknown" : (modes[mode]?.name ?? ""));
  return (
    <Picture
      words={["mode", "burst", "peak"]}
      name="recording"
      label={`Current from ${show(window.begin, "s")} to ${show(window.end, "s")}: up to ${show(most, "A")}`}
      table={{
        head: ["time [s]", "mean [A]", "least [A]", "most [A]"],
        rows: seen.time_s.map((t, i) => [t, seen.mean_a[i]!, seen.least_a[i]!, seen.most_a[i]!]),
      }}
    >
      <Chart tall={250}>
        {({ width, em }) => {
          const size = 11.5 * em;
          const [high, low] = [10 * em, 190 * em];
          const y = scaleLog([least, most * 1.3], [low, high]).clamp(true);
          const levels = decades(least, most * 1.3);
          const left = besideLevels(
            levels.map((a) => show(a, "A")),
            size,
          );
          const right = width - 8 * em;
          const x = scaleLinear([window.begin, window.end], [left, right]);
          const at = (i: number) => x(seen.time_s[i]!);
          const points = seen.time_s.map((_, i) => i);
          const band = area<number>(
            at,
            (i) => y(Math.max(seen.least_a[i]!, least)),
            (i) => y(Math.max(seen.most_a[i]!, least)),
          )(points);
          const mean = line<number>(at, (i) => y(Math.max(seen.mean_a[i]!, least)))(points);
          const ticks = x.ticks(tickCount(right - left, textWidth(show(window.end, "s"), size) * 1.3, 7));
          const inside = answer.stretches.filter((s) => s.end_s > window.begin && s.begin_s < window.end);
          const along = (t: number) => Math.min(Math.max(x(t), left), right);
          const marked: [number, number] | null = drag
            ? [Math.min(...drag), Math.max(...drag)]
            : picked && picked.begin < window.end && picked.end > window.begin
              ? [along(picked.begin), along(picked.end)]
              : null;
          const from = (e: { clientX: number; currentTarget: Element }) =>
            Math.min(Math.max(e.clientX - e.currentTarget.closest("svg")!.getBoundingClientRect().left, left), right);
          return (
            <>
              <Levels ticks={levels} scale={y} named={(a) => show(a, "A")} left={left} right={right} size={size} />
              <path d={band ?? ""} fill="var(--ember)" opacity={0.25} />
              <path d={mean ?? ""} fill="none" stroke="var(--ember)" strokeWidth={1.4} strokeLinejoin="round" />
              {inside.map((s) => {
                const [a, b] = [Math.max(x(s.begin_s), left), Math.min(x(s.end_s), right)];
                return (
                  <g key={s.begin_s}>
                    <rect
                      x={a}
                      y={low + 5 * em}
                      width={Math.max(b - a - 1, 0.7)}
                      height={18 * em}
                      fill={toneOf(s.mode)}
                      opacity={TONE_OPACITY}
                      className="cursor-pointer"
                      onClick={() => onPick({ begin: s.begin_s, end: s.end_s })}
                    >
                      <title>{`${name(s.mode)}: ${show(s.begin_s, "s")} to ${show(s.end_s, "s")}, ${show(s.mean_a, "A")}`}</title>
                    </rect>
                    {b - a > 30 * em && (
                      <text x={a + 4 * em} y={low + 18 * em} fontSize={size} fill="var(--ink)" pointerEvents="none">
                        {fitted(name(s.mode), b - a - 8 * em, size)}
                      </text>
                    )}
                  </g>
                );
              })}
              {onBorder &&
                inside.slice(0, -1).map((s, i) => {
                  const next = inside[i + 1]!;
                  const here = x(s.end_s);
                  if (here < left + GRIP || here > right - GRIP || x(next.end_s) - x(s.begin_s) < 3 * GRIP) return null;
                  const now = border?.at === i ? border.x : here;
                  return (
                    <g key={`border ${s.end_s}`}>
                      {border?.at === i && (
                        <line
                          x1={now}
                          x2={now}
                          y1={high}
                          y2={low + 23 * em}
                          stroke="var(--ink)"
                          strokeDasharray="3 2"
                        />
                      )}
                      <rect
                        data-testid="border"
                        x={here - GRIP / 2}
                        y={low + 4 * em}
                        width={GRIP}
                        height={20 * em}
                        fill="transparent"
                        className="cursor-col-resize"
                        onPointerDown={(e) => {
                          e.currentTarget.setPointerCapture(e.pointerId);
                          setBorder({ at: i, x: from(e) });
                        }}
                        onPointerMove={(e) => border && setBorder({ ...border, x: from(e) })}
                        onPointerUp={() => {
                          const most = Math.min(Math.max(now, x(s.begin_s)), x(next.end_s));
                          if (border && Math.abs(most - here) > 2) onBorder(s, next, x.invert(most));
                          setBorder(null);
                        }}
                        onPointerCancel={() => setBorder(null)}
                      >
                        <title>{`Border at ${show(s.end_s, "s")}: drag it to where it is`}</title>
                      </rect>
                    </g>
                  );
                })}
              <Along
                ticks={ticks}
                scale={x}
                named={(t) => show(t, "s")}
                y={low + 42 * em}
                size={size}
                right={right}
                centred
              />
              {marked && (
                <rect
                  x={marked[0]}
                  y={high}
                  width={Math.max(marked[1] - marked[0], 1)}
                  height={low - high}
                  fill="var(--ink)"
                  opacity={0.12}
                  stroke="var(--ink)"
                />
              )}
              <rect
                x={left}
                y={high}
                width={right - left}
                height={low - high}
                fill="transparent"
                className="cursor-crosshair"
                onPointerDown={(e) => {
                  e.currentTarget.setPointerCapture(e.pointerId);
                  setDrag([from(e), from(e)]);
                }}
                onPointerMove={(e) => drag && setDrag([drag[0], from(e)])}
                onPointerUp={() => {
                  if (drag && Math.abs(drag[1] - drag[0]) > 4) {
                    onPick({ begin: x.invert(Math.min(...drag)), end: x.invert(Math.max(...drag)) });
                  } else if (drag) onPick(null);
                  setDrag(null);
                }}
                onPointerCancel={() => setDrag(null)}
              />
            </>
          );
        }}
      </Chart>
    </Picture>
  );
}

const TONES = ["var(--soft)", "var(--pass)", "var(--watch)", "var(--ember)", "var(--ink)"];
const TONE_OPACITY = 0.4;

const toneOf = (mode: number | null): string => (mode === null ? "var(--fail)" : TONES[mode % TONES.length]!);

/** What a mode looks like in the picture. */
export const Tone = ({ mode }: { mode: number | null }) => (
  <span
    aria-hidden
    className="mr-2 inline-block size-3 rounded-sm align-baseline"
    style={{ background: toneOf(mode), opacity: TONE_OPACITY }}
  />
);

/** The powers of ten between two currents. */
const decades = (least: number, most: number): number[] => {
  const found = [];
  for (let k = Math.ceil(Math.log10(least)); 10 ** k <= most; k++) found.push(10 ** k);
  return found.length ? found : [most];
};
