// The grid itself: arrows move, Shift stretches, typing or Enter edits, Delete empties, copy and paste go to and from
// spreadsheets. Exactly one cell is in the tab order. Long grids draw only the rows in sight.
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef, type ClipboardEvent, type KeyboardEvent } from "react";
import { setUse } from "../../design/edits";
import { useDesign, useOpenDesign, useShown } from "../../design/store";
import type { Design, Evaluation, Part } from "../../design/types";
import { Button } from "../../ui/controls";
import { FigureButton } from "../../design/fields/figure";
import { count, show } from "../../ui/format";
import { enterTexts, type Cell } from "./entry";
import { filled, fromTsv, pasted, rangeOf, selectionAfter, toTsv, type Gesture, type Target } from "./grid";
import { useGridEdit } from "./gridEdit";
import { GridRow, NAME, type GridActions } from "./GridRow";
import { ModeTimes } from "./ModeTimes";
import { ProvenanceMark, PROVENANCES } from "./provenance";

/** A cell, or with `part: null` a mode's heading. */
export type Selected = { part: string | null; mode: string };

const HEAD = "sticky top-0 z-10 bg-paper px-2 py-1.5 text-left align-bottom font-medium";
const WINDOWED_FROM = 80; // rows
const STEPS: Record<string, [number, number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
  Home: [0, -999],
  End: [0, 999],
  PageUp: [-8, 0],
  PageDown: [8, 0],
};

type Row = { rail: Design["supply"]["rails"][number]; part: null } | { rail: null; part: Part };

/** The rails that have parts, each followed by its parts. */
function rowsOf(design: Design): Row[] {
  return design.supply.rails.flatMap((rail) => {
    const parts = design.parts.filter((p) => p.rail === rail.id);
    return parts.length ? [{ rail, part: null }, ...parts.map((part) => ({ rail: null, part }))] : [];
  });
}

export function DrawGrid({ selected, onSelect }: { selected: Selected | null; onSelect: (s: Selected) => void }) {
  const design = useOpenDesign();
  const shown = useShown();
  const edit = useDesign((s) => s.edit);
  const { editing, anchor, refusal, begin, stretchFrom, refuse, belongTo } = useGridEdit();
  const variant = useDesign((s) => s.variant?.id);
  useEffect(() => belongTo(variant), [variant, belongTo]);
  const holder = useRef<HTMLDivElement>(null);
  const moved = useRef(false);

  const rows = useMemo(() => rowsOf(design), [design]);
  const order = useMemo(() => rows.flatMap((r) => (r.part ? [r.part.id] : [])), [rows]);
  const modes = useMemo(() => design.modes.map((m) => m.id), [design.modes]);
  const uses = useMemo(() => design.modes.map((m) => new Map(m.uses.map((u) => [u.part, u]))), [design.modes]);
  const cells = useMemo(() => new Map(shown?.draw.cells.map((c) => [`${c.part} ${c.mode}`, c])), [shown]);
  const averages = useMemo(() => new Map(shown?.draw.parts.map((p) => [p.part, p])), [shown]);

  const at: Cell = { part: selected?.part ?? order[0] ?? "", mode: selected?.mode ?? modes[0] ?? "" };
  const grid = { parts: order, modes };
  const range = rangeOf(grid, { at, anchor });
  const many = selected?.part !== null && range.flat().length > 1;
  const marked = new Map(range.map((r) => [r[0]?.part, r]));

  const windowed = rows.length >= WINDOWED_FROM;
  // oxlint-disable-next-line react/incompatible-library -- the rows are memoised by hand and take none of its functions
  const virtual = useVirtualizer({
    count: windowed ? rows.length : 0,
    getScrollElement: () => holder.current,
    estimateSize: (i) => (rows[i]?.part ? 46 : 34),
    overscan: 12,
  });
  const drawn = windowed ? virtual.getVirtualItems().map((v) => v.index) : rows.map((_, i) => i);
  const before = windowed ? (virtual.getVirtualItems()[0]?.start ?? 0) : 0;
  const after = windowed ? virtual.getTotalSize() - (virtual.getVirtualItems().at(-1)?.end ?? 0) : 0;

  useEffect(() => {
    if (!moved.current) return;
    const cell = holder.current?.querySelector<HTMLElement>("[role=gridcell][tabindex='0']");
    if (cell) {
      cell.focus();
      moved.current = false;
    }
  });

  const go = (cell: Cell) => {
    moved.current = true;
    if (windowed) virtual.scrollToIndex(rows.findIndex((r) => r.part?.id === cell.part));
    onSelect(cell);
  };
  const gesture = (what: Gesture) => {
    const next = selectionAfter(grid, { at, anchor }, what);
    stretchFrom(next.anchor);
    return next.at;
  };

  const textOf = (cell: Cell) => cells.get(`${cell.part} ${cell.mode}`)?.text ?? "-";
  const put = async (targets: Target[], label: string) => refuse(await enterTexts(targets, label, false));
  const clear = () =>
    edit("Draws nothing", (d) => {
      for (const cell of range.flat()) setUse(d, cell.mode, cell.part, null);
    });
  const fill = (label: string, from: "above" | "left") => void put(filled(range, from, textOf), label);
  const paste = (text: string) => {
    const targets = pasted(grid, range, fromTsv(text));
    void put(targets, `Paste ${count(targets.length, "cell")}`);
  };

  const actions = useRef<GridActions>(null!);
  actions.current = {
    select: (cell, stretch) => {
      refuse(null);
      onSelect(gesture({ do: "take", cell, stretch }));
    },
    enter: (targets, text) => {
      const name = design.parts.find((p) => p.id === targets[0]?.part)?.name;
      const label = `${targets.length > 1 ? count(targets.length, "cell") : name}: ${text.trim() || "nothing"}`;
      return enterTexts(
        targets.map((cell) => ({ ...cell, text })),
        label,
      );
    },
    finish: ([down, across]) => {
      moved.current = true;
      if ((down || across) && !many) go(gesture({ do: "move", down, across, stretch: false }));
      else onSelect({ ...at });
    },
    begin: (cell) => begin(cell, null),
  };
  const stable = useMemo<GridActions>(
    () => ({
      select: (...a) => actions.current.select(...a),
      enter: (...a) => actions.current.enter(...a),
      finish: (...a) => actions.current.finish(...a),
      begin: (...a) => actions.current.begin(...a),
    }),
    [],
  );

  const targets = () => (many ? range.flat() : [at]);
  const onKeyDown = (e: KeyboardEvent) => {
    if (editing || !at.part || (e.target as HTMLElement).role !== "gridcell") return;
    const step = STEPS[e.key];
    const plain = !e.ctrlKey && !e.metaKey && !e.altKey;
    if (step && plain) go(gesture({ do: "move", down: step[0], across: step[1], stretch: e.shiftKey }));
    else if (e.key === "Escape" && many) gesture({ do: "single" });
    else if (e.key === "Enter" || e.key === "F2") begin(at, null, targets());
    else if (e.key === "Delete" || e.key === "Backspace") clear();
    else if (e.key.length === 1 && plain && e.key !== "?" && e.key !== " ") begin(at, e.key, targets());
    else return;
    e.preventDefault();
  };
  const onCopy = (e: ClipboardEvent) => {
    e.clipboardData.setData("text/plain", toTsv(range.map((r) => r.map(textOf))));
    e.preventDefault();
  };
  const onPaste = (e: ClipboardEvent) => {
    paste(e.clipboardData.getData("text/plain"));
    e.preventDefault();
  };

  return (
    <div className="relative">
      <div ref={holder} className={`relative overflow-x-auto pb-2 ${windowed ? "max-h-[34rem] overflow-y-auto" : ""}`}>
        {/* eslint-disable-next-line jsx-a11y/no-noninteractive-element-to-interactive-role -- a table that is a grid */}
        <table
          role="grid"
          aria-label="Parts and modes"
          aria-multiselectable
          aria-rowcount={rows.length + 1}
          className="w-full table-fixed border-separate border-spacing-x-0.5 border-spacing-y-0.5 text-[0.9375rem]"
          style={{ minWidth: `${18.5 + 5.75 * modes.length}rem` }}
          onKeyDown={onKeyDown}
          onCopy={onCopy}
          onPaste={onPaste}
        >
          <ModeHeadings selected={selected} onSelect={onSelect} shown={shown} />
          <tbody>
            {before > 0 && (
              <tr aria-hidden>
                <td style={{ height: before }} />
              </tr>
            )}
            {drawn.map((i) => {
              const row = rows[i];
              if (!row) return null;
              if (row.rail) return <RailRow key={row.rail.id} rail={row.rail} modes={modes} shown={shown} />;
              const mine = marked.get(row.part.id);
              const showRange = selected?.part && mine && (many || selected.part === row.part.id);
              return (
                <GridRow
                  key={row.part.id}
                  part={row.part}
                  modes={modes}
                  uses={uses.map((m) => m.get(row.part.id))}
                  found={modes.map((m) => cells.get(`${row.part.id} ${m}`))}
                  average={averages.get(row.part.id)}
                  active={at.part === row.part.id ? modes.indexOf(at.mode) : -1}
                  marked={
                    showRange ? [modes.indexOf(mine[0]?.mode ?? ""), modes.indexOf(mine.at(-1)?.mode ?? "")] : null
                  }
                  actions={stable}
                  rowIndex={i + 2}
                  observe={windowed ? virtual.measureElement : undefined}
                  dataIndex={windowed ? i : undefined}
                />
              );
            })}
            {after > 0 && (
              <tr aria-hidden>
                <td style={{ height: after }} />
              </tr>
            )}
          </tbody>
          <tfoot className="bg-paper sticky bottom-0 z-10">
            {shown && <ModeFigures shown={shown} label="At the battery" pick={(m) => m.battery_current} />}
            {shown && <ModeFigures shown={shown} label="Peak" pick={(m) => m.peak_current} />}
            {shown && <ModeFigures shown={shown} label="Runtime without a pause" pick={(m) => m.nonstop} />}
          </tfoot>
        </table>
      </div>
      {refusal && (
        <p role="alert" className="border-fail/60 bg-sheet my-2 rounded-md border p-2.5 text-sm">
          {refusal.message}
        </p>
      )}
      {many && (
        <div
          role="toolbar"
          aria-label="The selected cells"
          className="border-line bg-sheet sticky bottom-2 z-20 mx-auto my-2 flex w-fit flex-wrap items-center gap-1.5 rounded-full border py-1 pr-1.5 pl-4 text-sm shadow-md"
        >
          <span className="mr-1 font-medium">{count(range.flat().length, "cell")}</span>
          <Button kind="quiet" onClick={() => fill("Fill to the right", "left")}>
            Fill right
          </Button>
          <Button kind="quiet" onClick={() => fill("Fill down", "above")}>
            Fill down
          </Button>
          <Button
            kind="quiet"
            onClick={() => void navigator.clipboard?.writeText(toTsv(range.map((r) => r.map(textOf))))}
          >
            Copy
          </Button>
          <Button kind="quiet" onClick={clear}>
            Empty
          </Button>
        </div>
      )}
      <p className="text-soft mt-2 flex flex-wrap gap-x-4 gap-y-1 text-xs">
        {PROVENANCES.map(([key, name]) => (
          <span key={key} className="inline-flex items-center gap-1">
            <ProvenanceMark provenance={key} /> {name}
          </span>
        ))}
        <span className="print:hidden">
          Type into a cell: a state (“idle”), a share (“30 %”), a current (“12 mA”), both (“active 48mA”), or a burst
          (“active 0.4 s + radio 2 s every 10 min else sleep”). Drag, or Shift and an arrow, takes several.
        </span>
      </p>
    </div>
  );
}

function ModeHeadings({
  selected,
  onSelect,
  shown,
}: {
  selected: Selected | null;
  onSelect: (s: Selected) => void;
  shown: Evaluation | null;
}) {
  const design = useOpenDesign();
  return (
    <thead>
      <tr>
        <th scope="col" className={`${HEAD} left-0 z-20 w-[13rem]`}>
          Part
        </th>
        {design.modes.map((mode) => {
          const report = shown?.draw.modes.find((m) => m.mode === mode.id);
          const dayText = `${show(report?.day_s ?? 0, "s")} a day`;
          const happens = report?.happens ?? [];
          return (
            <th key={mode.id} scope="col" className={HEAD}>
              <button
                type="button"
                className={`hover:bg-well -mx-1 rounded-md px-1 text-left leading-tight ${selected?.part === null && selected.mode === mode.id ? "bg-well" : ""}`}
                onClick={() => onSelect({ part: null, mode: mode.id })}
              >
                {mode.name}
              </button>
              <ModeTimes
                mode={mode}
                said={mode.id === design.day.rest ? "rest of the day" : happens.length === 1 ? happens[0]! : dayText}
                happens={happens}
                dayText={mode.id === design.day.rest || !happens.length ? null : dayText}
              />
            </th>
          );
        })}
        <th scope="col" className={`${HEAD} w-[5.5rem]`}>
          Average
          <span className="text-soft block text-xs font-normal">at the battery</span>
        </th>
      </tr>
    </thead>
  );
}

function RailRow({
  rail,
  modes,
  shown,
}: {
  rail: Design["supply"]["rails"][number];
  modes: readonly string[];
  shown: Evaluation | null;
}) {
  return (
    <tr>
      <th scope="rowgroup" className={`${NAME} font-display pt-3 pb-0.5 pl-2 text-[0.9375rem]`}>
        {rail.name}
      </th>
      {modes.map((mode) => (
        <td key={mode} className="text-soft px-2 pt-3 pb-0.5 text-xs">
          {show(shown?.draw.rails.find((r) => r.rail === rail.id && r.mode === mode)?.current_a, "A")}
        </td>
      ))}
      <td />
    </tr>
  );
}

function ModeFigures({
  shown,
  label,
  pick,
}: {
  shown: Evaluation;
  label: string;
  pick: (m: Evaluation["draw"]["modes"][number]) => Evaluation["draw"]["mean"];
}) {
  return (
    <tr>
      <th scope="row" className={`${NAME} border-line text-soft border-t py-1 pl-2`}>
        {label}
      </th>
      {shown.draw.modes.map((m) => (
        <td key={m.mode} className="border-line border-t px-2 py-1">
          <FigureButton figure={pick(m)} />
        </td>
      ))}
      <td className="border-line border-t px-2 py-1">
        {label === "At the battery" && <FigureButton figure={shown.draw.mean} />}
      </td>
    </tr>
  );
}
