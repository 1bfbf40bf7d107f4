// The grid itself: arrows move, typing or Enter edits, Delete empties. Exactly one cell is in the tab order.
import { useEffect, useRef, type KeyboardEvent } from "react";
import { setUse } from "../../design/edits";
import { useDesign, useOpenDesign, useShown } from "../../design/store";
import type { Evaluation, Part, Use } from "../../design/types";
import { FigureButton } from "../../ui/figure";
import { show } from "../../ui/format";
import { CellEditor } from "./CellEditor";
import { ProvenanceMark, PROVENANCES } from "./provenance";
import { useGridEdit } from "./gridEdit";

/** A cell, or with `part: null` a mode's heading. */
export type Selected = { part: string | null; mode: string };

const HEAD = "sticky top-0 z-10 bg-paper px-2 py-1.5 text-left align-bottom font-medium";
const NAME = "sticky left-0 z-[5] bg-paper text-left font-normal";

export function DrawGrid({ selected, onSelect }: { selected: Selected | null; onSelect: (s: Selected) => void }) {
  const design = useOpenDesign();
  const shown = useShown();
  const edit = useDesign((s) => s.edit);
  const { editing, begin, end } = useGridEdit();
  const grid = useRef<HTMLTableElement>(null);
  const moved = useRef(false);

  const rails = design.supply.rails
    .map((rail) => ({ rail, parts: design.parts.filter((p) => p.rail === rail.id) }))
    .filter((g) => g.parts.length > 0);
  const order = rails.flatMap((g) => g.parts);
  const at: Selected = selected?.part ? selected : { part: order[0]?.id ?? null, mode: design.modes[0]!.id };

  useEffect(() => {
    if (moved.current) grid.current?.querySelector<HTMLElement>("[role=gridcell][tabindex='0']")?.focus();
    moved.current = false;
  });

  const move = (rows: number, columns: number) => {
    const row = order.findIndex((p) => p.id === at.part);
    const column = design.modes.findIndex((m) => m.id === at.mode);
    const part = order[Math.max(0, Math.min(order.length - 1, row + rows))];
    const mode = design.modes[Math.max(0, Math.min(design.modes.length - 1, column + columns))];
    moved.current = true;
    if (part && mode) onSelect({ part: part.id, mode: mode.id });
  };

  const onKeyDown = (e: KeyboardEvent) => {
    if (editing || !at.part) return;
    const steps: Record<string, [number, number]> = {
      ArrowUp: [-1, 0],
      ArrowDown: [1, 0],
      ArrowLeft: [0, -1],
      ArrowRight: [0, 1],
      Home: [0, -999],
      End: [0, 999],
      PageUp: [-8, 0],
      PageDown: [8, 0],
    };
    const step = steps[e.key];
    if (step) move(...step);
    else if (e.key === "Enter" || e.key === "F2") begin({ part: at.part, mode: at.mode }, null);
    else if (e.key === "Delete" || e.key === "Backspace")
      edit("Draws nothing", (d) => setUse(d, at.mode, at.part!, null));
    else if (e.key.length === 1 && !e.ctrlKey && !e.metaKey && !e.altKey && e.key !== "?" && e.key !== " ")
      begin({ part: at.part, mode: at.mode }, e.key);
    else return;
    e.preventDefault();
  };

  const finish = (rows: number) => {
    end();
    moved.current = true;
    if (rows) move(rows, 0);
    else onSelect({ ...at });
  };

  return (
    <div className="relative overflow-x-auto pb-2">
      {/* eslint-disable-next-line jsx-a11y/no-noninteractive-element-to-interactive-role -- a table that is a grid */}
      <table
        ref={grid}
        role="grid"
        aria-label="Parts and modes"
        className="w-full table-fixed border-separate border-spacing-x-0.5 border-spacing-y-0.5 text-[0.9375rem]"
        style={{ minWidth: `${18.5 + 5.75 * design.modes.length}rem` }}
        onKeyDown={onKeyDown}
      >
        <thead>
          <tr>
            <th scope="col" className={`${HEAD} left-0 z-20 w-[13rem]`}>
              Part
            </th>
            {design.modes.map((mode) => {
              const report = shown?.draw.modes.find((m) => m.mode === mode.id);
              return (
                <th key={mode.id} scope="col" className={`${HEAD} `}>
                  <button
                    type="button"
                    className={`hover:bg-well -mx-1 rounded-md px-1 text-left ${selected?.part === null && selected.mode === mode.id ? "bg-well" : ""}`}
                    onClick={() => onSelect({ part: null, mode: mode.id })}
                  >
                    <span className="block leading-tight">{mode.name}</span>
                    <span className="text-soft block text-xs font-normal">
                      {mode.id === design.day.rest
                        ? "rest of the day"
                        : show((report?.day_share ?? 0) * 86400, "s") + " a day"}
                    </span>
                  </button>
                </th>
              );
            })}
            <th scope="col" className={`${HEAD} w-[5.5rem]`}>
              Average
              <span className="text-soft block text-xs font-normal">at the battery</span>
            </th>
          </tr>
        </thead>
        {rails.map(({ rail, parts }) => (
          <tbody key={rail.id}>
            <tr>
              <th scope="rowgroup" className={`${NAME} font-display pt-3 pb-0.5 pl-2 text-[0.9375rem]`}>
                {rail.name}
              </th>
              {design.modes.map((mode) => (
                <td key={mode.id} className="text-soft px-2 pt-3 pb-0.5 text-xs">
                  {show(shown?.draw.rails.find((r) => r.rail === rail.id && r.mode === mode.id)?.current_a, "A")}
                </td>
              ))}
              <td />
            </tr>
            {parts.map((part) => (
              <tr key={part.id}>
                <th scope="row" className={`${NAME} py-1 pr-2 pl-2`}>
                  <span className="line-clamp-2 leading-tight" title={part.name}>
                    {part.quantity > 1 && `${part.quantity} × `}
                    {part.name}
                  </span>
                  {part.passenger && <span className="text-soft block text-xs">came with a module</span>}
                </th>
                {design.modes.map((mode) => (
                  <GridCell
                    key={mode.id}
                    part={part}
                    mode={mode.id}
                    use={mode.uses.find((u) => u.part === part.id)}
                    shown={shown}
                    active={at.part === part.id && at.mode === mode.id}
                    marked={selected?.part === part.id && selected.mode === mode.id}
                    onSelect={() => onSelect({ part: part.id, mode: mode.id })}
                    finish={finish}
                  />
                ))}
                <AverageCell part={part.id} shown={shown} />
              </tr>
            ))}
          </tbody>
        ))}
        <tfoot>
          {shown && <ModeFigures shown={shown} label="At the battery" pick={(m) => m.battery_current} />}
          {shown && <ModeFigures shown={shown} label="Peak" pick={(m) => m.peak_current} />}
          {shown && <ModeFigures shown={shown} label="Runtime without a pause" pick={(m) => m.nonstop} />}
        </tfoot>
      </table>
      <p className="text-soft mt-2 flex flex-wrap gap-x-4 gap-y-1 text-xs">
        {PROVENANCES.map(([key, name]) => (
          <span key={key} className="inline-flex items-center gap-1">
            <ProvenanceMark provenance={key} /> {name}
          </span>
        ))}
        <span>Type into a cell: a state (“idle”), a share (“30 %”), a current (“12 mA”), or both (“active 48mA”).</span>
      </p>
    </div>
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

function AverageCell({ part, shown }: { part: string; shown: Evaluation | null }) {
  const found = shown?.draw.parts.find((p) => p.part === part);
  return (
    <td className="px-2 py-1">
      {found && (
        <>
          <FigureButton figure={found.current} />
          <span className="bg-well mt-0.5 block h-1 rounded-full" aria-hidden>
            <span
              className="bg-ember block h-full rounded-full"
              style={{ width: `${Math.min(100, found.share * 100)}%` }}
            />
          </span>
        </>
      )}
    </td>
  );
}

const describeUse = (use: Use) => {
  if (use.burst.length) return `${use.burst.map((p) => p.state).join(", ")} every ${show(use.period_s, "s")}`;
  return use.duty < 1 ? `${use.state}, ${show(use.duty, "share")}` : use.state;
};

function GridCell({
  part,
  mode,
  use,
  shown,
  active,
  marked,
  onSelect,
  finish,
}: {
  part: Part;
  mode: string;
  use: Use | undefined;
  shown: Evaluation | null;
  active: boolean;
  marked: boolean;
  onSelect: () => void;
  finish: (rows: number) => void;
}) {
  const { editing, begin } = useGridEdit();
  const found = shown?.draw.cells.find((c) => c.part === part.id && c.mode === mode);
  const isEditing = editing?.part === part.id && editing.mode === mode;
  const provenance = part.states.find((s) => s.name === use?.state)?.provenance;
  const shade = found ? Math.round(Math.min(1, found.share) * 62) : 0;
  return (
    <td
      role="gridcell"
      tabIndex={active ? 0 : -1}
      aria-selected={marked}
      data-testid={`cell-${part.id}-${mode}`}
      onClick={onSelect}
      onDoubleClick={() => begin({ part: part.id, mode }, null)}
      className={`relative h-11 cursor-cell rounded-md px-2 py-0.5 align-middle outline-offset-[-2px] ${marked ? "outline-ink outline-2" : ""} ${use ? "" : "text-soft"}`}
      style={{ background: `color-mix(in srgb, var(--ember) calc(${shade}% * var(--shade)), var(--sheet))` }}
    >
      {isEditing ? (
        <CellEditor part={part} mode={mode} use={use} initial={editing.text} finish={finish} />
      ) : use ? (
        <>
          <span className="block leading-tight">{show(found?.current.value, "A")}</span>
          <span className={`flex items-center gap-1 text-xs leading-tight ${shade > 6 ? "text-ink" : "text-soft"}`}>
            {provenance && <ProvenanceMark provenance={provenance} />}
            <span className="truncate">{describeUse(use)}</span>
          </span>
        </>
      ) : (
        <span aria-label="draws nothing">–</span>
      )}
    </td>
  );
}
