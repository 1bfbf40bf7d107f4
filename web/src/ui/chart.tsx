// Drawing in real pixels: a chart is as wide as its place, its text as large as text is, and labels are measured before
// they are set, so that none is cut and none lies on another.
import { flushSync } from "react-dom";
import { useLayoutEffect, useRef, useState, type ReactNode } from "react";

/** The room of a chart in pixels; `em` is 1 at the usual text size and 2 at 200 %. */
export type Frame = { width: number; height: number; em: number };

const NARROWEST = 220;
export const PAPER_PX = 640; // what a sheet of paper leaves

type ChartProps = {
  tall: number | ((frame: Omit<Frame, "height">) => number);
  /** the width in pixels at the usual text size below which it scrolls in itself */
  least?: number;
  children: (frame: Frame) => ReactNode;
};

export function Chart({ tall, least = NARROWEST, children }: ChartProps) {
  const holder = useRef<HTMLDivElement>(null);
  const [room, setRoom] = useState({ width: 0, em: 1 });
  useLayoutEffect(() => {
    const element = holder.current!;
    const measure = () => {
      const em = parseFloat(getComputedStyle(document.documentElement).fontSize) / 16;
      const width = Math.max(Math.floor(element.clientWidth), least * em);
      setRoom((now) => (now.width === width && now.em === em ? now : { width, em }));
    };
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    void document.fonts.ready.then(measure);
    const onPaper = () => flushSync(() => setRoom((now) => ({ ...now, width: Math.min(now.width, PAPER_PX) })));
    window.addEventListener("beforeprint", onPaper);
    window.addEventListener("afterprint", measure);
    return () => {
      observer.disconnect();
      window.removeEventListener("beforeprint", onPaper);
      window.removeEventListener("afterprint", measure);
    };
  }, [least]);
  const height = Math.ceil(typeof tall === "number" ? tall * room.em : tall(room));
  return (
    <div ref={holder} className="w-full overflow-x-auto overflow-y-hidden">
      {room.width > 0 && (
        <svg
          width={room.width}
          height={height}
          viewBox={`0 0 ${room.width} ${height}`}
          className="block print:h-auto print:max-w-full"
          style={{ fontFamily: "inherit" }}
          data-chart
        >
          {children({ ...room, height })}
        </svg>
      )}
    </div>
  );
}

type Scale = (value: number) => number | undefined;

type LevelsProps = {
  ticks: readonly number[];
  scale: Scale;
  named: (tick: number) => string;
  left: number;
  right: number;
  size: number;
  /** figures only, without lines */
  bare?: boolean;
  /** on the right of `right` and not on the left of `left` */
  after?: boolean;
};

/** Levels of an upright axis: a fine line across for each, its figure beside it. */
export function Levels({ ticks, scale, named, left, right, size, bare, after }: LevelsProps) {
  return ticks.map((t) => (
    <g key={t}>
      {!bare && <line x1={left} x2={right} y1={scale(t)} y2={scale(t)} stroke="var(--line)" strokeWidth="0.700" />}
      <text
        x={after ? right + BESIDE : left - BESIDE}
        y={(scale(t) ?? 0) + size / 3}
        textAnchor={after ? "start" : "end"}
        fontSize={size}
        fill="var(--soft)"
      >
        {named(t)}
      </text>
    </g>
  ));
}

/** The room that the figures of levels need beside a chart. */
export const besideLevels = (named: string[], size: number): number =>
  Math.max(...named.map((n) => textWidth(n, size))) + BESIDE + 3;

const BESIDE = 7;

type AlongProps = {
  ticks: readonly number[];
  scale: Scale;
  named: (tick: number, place: number) => string;
  /** where the figures stand */
  y: number;
  size: number;
  /** no figure beyond it */
  right: number;
  /** lines from here down to there */
  lines?: readonly [number, number];
  /** the first figure in the middle of its tick too, instead of begun there */
  centred?: boolean;
};

/** The figures beneath a chart, the first one begun at its tick, none of them cut at the right. */
export function Along({ ticks, scale, named, y, size, right, lines, centred }: AlongProps) {
  return ticks.map((t, i) => (
    <g key={t}>
      {lines && (
        <line x1={scale(t)} x2={scale(t)} y1={lines[0]} y2={lines[1]} stroke="var(--line)" strokeWidth="0.700" />
      )}
      <text
        x={Math.min(scale(t) ?? 0, right - textWidth(named(t, i), size) / (i === 0 && !centred ? 1 : 2))}
        y={y}
        textAnchor={i === 0 && !centred ? "start" : "middle"}
        fontSize={size}
        fill="var(--soft)"
      >
        {named(t, i)}
      </text>
    </g>
  ));
}

/** A course over the chart: in the colour of energy, or thin and dashed for what is compared with it. */
export function Course({ d, dashed }: { d: string | null; dashed?: boolean }) {
  return (
    <path
      d={d ?? ""}
      fill="none"
      stroke={dashed ? "var(--ink)" : "var(--ember)"}
      strokeWidth={dashed ? 1.5 : 2.2}
      strokeDasharray={dashed ? "5 3" : undefined}
    />
  );
}

const canvas = document.createElement("canvas").getContext("2d");

/** The width of a text in pixels at a font size in pixels. */
export function textWidth(text: string, size: number): number {
  if (!canvas) return text.length * size * 0.6;
  canvas.font = `${size}px ${getComputedStyle(document.body).fontFamily}`;
  return canvas.measureText(text).width * 1.02;
}

/** A text cut to a width, with an ellipsis. */
export function fitted(text: string, width: number, size: number): string {
  if (textWidth(text, size) <= width) return text;
  let kept = text.length;
  while (kept > 1 && textWidth(`${text.slice(0, kept)}…`, size) > width) kept -= 1;
  return `${text.slice(0, kept).trimEnd()}…`;
}

/** As many ticks as have room: the most that keep labels of a width apart. */
export const tickCount = (length: number, label: number, most: number): number =>
  Math.max(2, Math.min(most, Math.floor(length / (label + 14))));

/** Middles of labels moved apart as little as needed, within a range; in the order given. */
export function apart(middles: number[], widths: number[], from: number, to: number, gap = 8): number[] {
  const half = (i: number) => widths[i]! / 2;
  const placed = [...middles];
  for (let i = 0; i < placed.length; i += 1) {
    const least = i === 0 ? from + half(0) : placed[i - 1]! + half(i - 1) + gap + half(i);
    placed[i] = Math.max(placed[i]!, least);
  }
  for (let i = placed.length - 1; i >= 0; i -= 1) {
    const most = i === placed.length - 1 ? to - half(i) : placed[i + 1]! - half(i + 1) - gap - half(i);
    placed[i] = Math.min(placed[i]!, most);
  }
  return placed;
}
