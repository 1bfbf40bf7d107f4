// The case cut by a plane that is pulled through: outlines, walls and gaps with their measures, for reading and printing.
import { useState } from "react";
import { ask, client, type Schemas } from "../../api/client";
import { Answered, useAnswer } from "../../design/fields/answer";
import { useOpenDesign } from "../../design/store";
import { Chart, fitted, textWidth, type Frame } from "../../ui/chart";
import { Choice } from "../../ui/controls";
import { show } from "../../ui/format";
import { Picture } from "../../ui/picture";
import { Plane } from "../../ui/plane";

type Answer = Schemas["SectionAnswer"];
type Measure = Schemas["SectionMeasure"];
type Point = readonly number[];

const ACROSS = [
  ["z", "across z, from above"],
  ["x", "across x, from the left"],
  ["y", "across y, from the front"],
] as const;
const AXES = ["x", "y", "z"] as const;
const LABELLED = 10; // gaps with their figure in the picture, the tightest first; all stand in the table
const TALLEST = 380;
const TALL = 1.45; // of a text's size: its line, and where its letters stand in it
const BASE = 1.08;
const TINT: Record<string, string> = { pass: "var(--soft)", watch: "var(--watch)", fail: "var(--fail)" };

export function SectionView({ selected, onSelect }: { selected: string | null; onSelect: (where: string) => void }) {
  const { enclosure } = useOpenDesign();
  const [axis, setAxis] = useState<"x" | "y" | "z">("z");
  const [share, setShare] = useState(0.5);
  const size = enclosure.outer_mm[AXES.indexOf(axis)]!;
  const at = Number((share * size).toFixed(2));
  const asking = useAnswer(["section", axis, at], (design, signal) =>
    ask(client.POST("/api/answers/section", { body: design, params: { query: { axis, at_mm: at } }, signal })),
  );
  return (
    <div>
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <div className="w-52">
          <Choice label="Cut" bare value={axis} options={ACROSS} onChange={setAxis} />
        </div>
        <Plane at={share} size={size} move={setShare} />
      </div>
      <Answered asking={asking} waiting="Cutting" nothing="">
        {(answer) => <Cut answer={answer} selected={selected} onSelect={onSelect} />}
      </Answered>
    </div>
  );
}

type CutProps = { answer: Answer; selected: string | null; onSelect: (where: string) => void };

/** The longer side lies across: which of both coordinates goes to the right, and which upwards. */
function lying(answer: Answer): [0 | 1, 0 | 1] {
  const [wide, tall] = [0, 1].map((k) => Math.max(...answer.shell.flat().map((p) => p[k]!), 0)) as [number, number];
  return wide >= tall ? [0, 1] : [1, 0];
}

function Cut({ answer, selected, onSelect }: CutProps) {
  const axes = AXES.filter((a) => a !== answer.axis);
  const [u, v] = lying(answer).map((k) => axes[k]);
  return (
    <Picture
      name={`section-${answer.axis}`}
      title={`${u} to the right, ${v} upwards`}
      label={`The case cut across ${answer.axis} at ${show(answer.at_mm, "mm")}: ${answer.bodies.map((b) => b.name).join(", ") || "nothing is cut but the case"}`}
      table={{
        head: ["what", "measured [mm]", "needed [mm]", `from ${axes.join(", ")} [mm]`, `to ${axes.join(", ")} [mm]`],
        rows: answer.measures.map((m) => [m.name, m.length_mm, m.needed_mm, m.begin.join(", "), m.end.join(", ")]),
      }}
    >
      <Chart tall={(room) => scaleOf(answer, room.width, room.em).height} least={460}>
        {(frame) => <Drawing frame={frame} answer={answer} selected={selected} onSelect={onSelect} />}
      </Chart>
    </Picture>
  );
}

/** Pixels for a millimetre, and how tall the picture is then. */
function scaleOf(answer: Answer, width: number, em: number) {
  const order = lying(answer);
  const [right, top] = order.map((k) => Math.max(...answer.shell.flat().map((p) => p[k]!), 1)) as [number, number];
  const margin = 26 * em;
  const scale = Math.min((width - 2 * margin) / right, (TALLEST * em - 2 * margin) / top);
  return { scale, height: Math.ceil(top * scale + 2 * margin), left: (width - right * scale) / 2, margin, top, order };
}

function Drawing({ frame, answer, selected, onSelect }: CutProps & { frame: Frame }) {
  const { em, width } = frame;
  const { scale, left, margin, top, order } = scaleOf(answer, width, em);
  const at = (p: Point): [number, number] => [left + p[order[0]]! * scale, margin + (top - p[order[1]]!) * scale];
  const path = (outline: Point[]) => (outline.length ? `M${outline.map((p) => at(p).join(" ")).join("L")}Z` : "");
  const size = 11.5 * em;
  const told = answer.measures.filter((m) => m.kind === "wall" || m.length_mm > 0);
  const shown = [...told.filter((m) => m.kind === "gap").slice(0, LABELLED), ...told.filter((m) => m.kind === "wall")];
  // figures first, the tightest gap before all others, then names; what has no room of its own stands in the table
  const taken: Box[] = [];
  const free = (box: Box): boolean => {
    const clear = !taken.some(
      (t) => box.x < t.x + t.w && t.x < box.x + box.w && box.y < t.y + t.h && t.y < box.y + box.h,
    );
    if (clear) taken.push(box);
    return clear;
  };
  const dimensions = shown.map((m) => {
    const [from, to] = [at(m.begin), at(m.end)];
    const text = show(m.length_mm, "mm");
    const box = labelBox(from, to, textWidth(text, size), size, width);
    return { m, from, to, text, box: free(box) ? box : null };
  });
  const bodies = answer.bodies.map((b) => {
    const points = b.outlines.flat();
    const [x0, x1] = ends(points, order[0]).map((v) => left + v * scale) as [number, number];
    const [y1, y0] = ends(points, order[1]).map((v) => margin + (top - v) * scale) as [number, number];
    const name = fitted(b.name, x1 - x0 - 10 * em, size);
    const box = { x: x0 + 5 * em, y: y0 + 2 * em, w: textWidth(name, size), h: TALL * size };
    const roomy = x1 - x0 > 46 * em && y1 - y0 > 16 * em;
    return { ...b, label: roomy && free(box) ? name : null, box };
  });
  return (
    <>
      <path d={answer.shell.map(path).join("")} fillRule="evenodd" fill="var(--soft)" opacity="0.4" />
      {bodies.map((b) => {
        const chosen = selected === b.where;
        const tint = b.where === "/battery" ? "var(--ember)" : "var(--soft)";
        return (
          <g key={b.where} className="cursor-pointer" onClick={() => onSelect(b.where)}>
            <title>{b.name}</title>
            <path
              d={b.outlines.map(path).join("")}
              fill={`color-mix(in srgb, ${tint} ${chosen ? 45 : 24}%, var(--sheet))`}
              stroke={chosen ? "var(--ink)" : tint}
              strokeWidth={chosen ? 2 : 1.2}
            />
            {b.label && (
              <text x={b.box.x} y={b.box.y + size * BASE} fontSize={size} fill="var(--ink)" pointerEvents="none">
                {b.label}
              </text>
            )}
          </g>
        );
      })}
      {dimensions.map((d) => (
        <Dimension key={d.m.name} {...d} size={size} />
      ))}
    </>
  );
}

const ends = (outline: Point[], k: 0 | 1): [number, number] => [
  Math.min(...outline.map((p) => p[k]!)),
  Math.max(...outline.map((p) => p[k]!)),
];

type Box = { x: number; y: number; w: number; h: number };

/** Where the figure of a gap or a wall stands: beside the middle of its line, inside the picture. */
function labelBox(from: Spot, to: Spot, wide: number, size: number, width: number): Box {
  const [x, y] = [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2];
  const across = Math.abs(to[0] - from[0]) > Math.abs(to[1] - from[1]);
  const left = Math.min(Math.max(across ? x - wide / 2 : x + 5, 2), width - wide - 6);
  return { x: left, y: across ? y - 4 - TALL * size : y - (TALL * size) / 2, w: wide + 4, h: TALL * size };
}

type Spot = [number, number];
type DimensionProps = { m: Measure; from: Spot; to: Spot; text: string; box: Box | null; size: number };

/** A gap or a wall: a line between its two ends, its figure where that has room. */
function Dimension({ m, from, to, text, box, size }: DimensionProps) {
  const tint = m.kind === "wall" ? "var(--ink)" : (TINT[m.status] ?? "var(--soft)");
  return (
    <g pointerEvents="none">
      <line x1={from[0]} y1={from[1]} x2={to[0]} y2={to[1]} stroke={tint} strokeWidth="1.400" />
      {[from, to].map((p, i) => (
        <circle key={i} cx={p[0]} cy={p[1]} r="1.8" fill={tint} />
      ))}
      {box && (
        <text
          x={box.x}
          y={box.y + size * BASE}
          fontSize={size}
          fill={m.status === "pass" ? "var(--ink)" : tint}
          stroke="var(--sheet)"
          strokeWidth="3"
          paintOrder="stroke"
        >
          {text}
        </text>
      )}
    </g>
  );
}
