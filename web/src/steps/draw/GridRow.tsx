// One part's row of the grid. It is drawn anew only when something of its own has changed.
import { memo } from "react";
import type { Evaluation, Part, Use } from "../../design/types";
import { FigureButton } from "../../design/fields/figure";
import { range, show } from "../../ui/format";
import { CellEditor, type Step } from "./CellEditor";
import type { Cell, Refusal } from "./entry";
import { cellKey, useGridEdit } from "./gridEdit";
import { ProvenanceMark } from "./provenance";

export const NAME = "sticky left-0 z-[5] bg-paper text-left font-normal";

export type GridActions = {
  select: (cell: Cell, stretch: boolean) => void;
  enter: (targets: Cell[], text: string) => Promise<Refusal | null>;
  finish: (step: Step) => void;
  begin: (cell: Cell) => void;
};

type Found = Evaluation["draw"]["cells"][number];

type RowProps = {
  part: Part;
  modes: readonly string[];
  uses: readonly (Use | undefined)[];
  found: readonly (Found | undefined)[];
  average: Evaluation["draw"]["parts"][number] | undefined;
  /** the column of the one cell in the tab order, -1 where it is in another row */
  active: number;
  /** the marked columns, from and to; null where none is */
  marked: readonly [number, number] | null;
  actions: GridActions;
  rowIndex: number;
  /** for rows whose height is measured */
  observe?: (row: HTMLTableRowElement | null) => void;
  dataIndex?: number;
};

const sameList = (a: readonly unknown[], b: readonly unknown[]) =>
  a.length === b.length && a.every((x, i) => x === b[i]);

export const GridRow = memo(
  function GridRow({ observe, part, ...p }: RowProps) {
    return (
      <tr ref={observe} data-index={p.dataIndex} aria-rowindex={p.rowIndex}>
        <th scope="row" className={`${NAME} py-1 pr-2 pl-2`}>
          <button
            type="button"
            tabIndex={-1}
            className="line-clamp-2 min-h-6 text-left leading-tight underline-offset-2 hover:underline"
            title={part.name}
            onClick={() => p.modes[0] && p.actions.select({ part: part.id, mode: p.modes[0] }, false)}
          >
            {part.quantity > 1 && `${part.quantity} × `}
            {part.name}
          </button>
          {(part.parasitic || part.plugged_by_user) && (
            <span className="text-soft block text-xs">
              {part.parasitic ? "parasitic load of a module" : "plugged in by the user"}
            </span>
          )}
        </th>
        {p.modes.map((mode, i) => (
          <GridCell
            key={mode}
            part={part}
            mode={mode}
            use={p.uses[i]}
            found={p.found[i]}
            active={p.active === i}
            marked={p.marked !== null && i >= p.marked[0] && i <= p.marked[1]}
            actions={p.actions}
          />
        ))}
        <td className="px-2 py-1">
          {p.average && (
            <>
              <FigureButton figure={p.average.current} />
              <span className="bg-well mt-0.5 block h-1 rounded-full" aria-hidden>
                <span
                  className="bg-ember block h-full rounded-full"
                  style={{ width: `${Math.min(100, p.average.share * 100)}%` }}
                />
              </span>
            </>
          )}
        </td>
      </tr>
    );
  },
  (a, b) =>
    a.part === b.part &&
    a.average === b.average &&
    a.active === b.active &&
    a.marked?.[0] === b.marked?.[0] &&
    a.marked?.[1] === b.marked?.[1] &&
    a.rowIndex === b.rowIndex &&
    sameList(a.modes, b.modes) &&
    sameList(a.uses, b.uses) &&
    sameList(a.found, b.found),
);

const describeUse = (use: Use) => {
  if (use.burst.length) return `${use.burst.map((p) => p.state).join(", ")} every ${show(use.period_s, "s")}`;
  return use.duty < 1 ? `${use.state}, ${show(use.duty, "share")}` : use.state;
};

function GridCell({
  part,
  mode,
  use,
  found,
  active,
  marked,
  actions,
}: {
  part: Part;
  mode: string;
  use: Use | undefined;
  found: Found | undefined;
  active: boolean;
  marked: boolean;
  actions: GridActions;
}) {
  const editing = useGridEdit((s) => (s.editing?.part === part.id && s.editing.mode === mode ? s.editing : null));
  const waiting = useGridEdit((s) => s.waiting[cellKey({ part: part.id, mode })]);
  const provenance = part.states.find((s) => s.name === use?.state)?.provenance;
  const shade = found ? Math.round(Math.min(1, found.share) * 62) : 0;
  const dead = use && found && !found.powered;
  return (
    <td
      role="gridcell"
      tabIndex={active ? 0 : -1}
      aria-selected={marked}
      data-testid={`cell-${part.id}-${mode}`}
      onPointerDown={(e) => e.button === 0 && actions.select({ part: part.id, mode }, e.shiftKey)}
      onPointerEnter={(e) => e.buttons === 1 && actions.select({ part: part.id, mode }, true)}
      onDoubleClick={() => actions.begin({ part: part.id, mode })}
      className={`relative h-11 cursor-cell rounded-md px-2 py-0.5 align-middle outline-offset-[-2px] select-none ${marked ? "outline-ink outline-2" : ""} ${use ? "" : "text-soft"}`}
      style={{ background: `color-mix(in srgb, var(--ember) calc(${shade}% * var(--shade)), var(--sheet))` }}
    >
      {editing ? (
        <CellEditor
          part={part}
          cell={{ part: part.id, mode }}
          initial={editing.text}
          written={found?.text ?? use?.state ?? ""}
          waiting={waiting}
          enter={(text) => actions.enter(editing.targets, text)}
          finish={actions.finish}
        />
      ) : waiting ? (
        <span
          className="text-fail line-clamp-2 leading-tight underline decoration-wavy underline-offset-4"
          title={waiting.refusal.message}
        >
          <span className="sr-only">not understood: </span>
          {waiting.text}
        </span>
      ) : use ? (
        <>
          <span
            className="block leading-tight"
            title={found && !dead ? range(found.current.low, found.current.high, "A") : undefined}
          >
            {dead ? "no power" : show(found?.current.value, "A")}
          </span>
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
