// The grid's own state: the cell that is being edited, the other corner of the range, the last refusal.
import { create } from "zustand";
import { setPending } from "../../ui/typed";
import type { Cell, Refusal } from "./entry";

/** A text that was refused and left: it waits in its cell until it is corrected or dropped by Escape. */
export type Waiting = { text: string; refusal: Refusal };

export const cellKey = (cell: Cell): string => `${cell.part} ${cell.mode}`;

export const useGridEdit = create<{
  /** the cell that is being typed into, with all those that the text is for */
  editing: (Cell & { text: string | null; targets: Cell[] }) | null;
  waiting: Readonly<Record<string, Waiting>>;
  /** the corner that stays while the selection is stretched; null: a single cell */
  anchor: Cell | null;
  refusal: Refusal | null;
  begin: (cell: Cell, text: string | null, targets?: Cell[]) => void;
  /** editing of this cell is over; what is refused waits there */
  leave: (cell: Cell, waiting: Waiting | null) => void;
  stretchFrom: (anchor: Cell | null) => void;
  refuse: (refusal: Refusal | null) => void;
  /** the variant all this is about; with another one nothing of it is left */
  of: number | undefined;
  belongTo: (variant: number | undefined) => void;
}>((set) => ({
  editing: null,
  waiting: {},
  anchor: null,
  refusal: null,
  begin: (cell, text, targets = [cell]) => set({ editing: { ...cell, text, targets }, refusal: null }),
  leave: (cell, waiting) =>
    set((now) => {
      setPending(`cell ${cellKey(cell)}`, waiting !== null);
      const { [cellKey(cell)]: _, ...others } = now.waiting;
      const mine = now.editing !== null && cellKey(now.editing) === cellKey(cell);
      return {
        waiting: waiting ? { ...others, [cellKey(cell)]: waiting } : others,
        editing: mine ? null : now.editing,
      };
    }),
  stretchFrom: (anchor) => set({ anchor }),
  refuse: (refusal) => set({ refusal }),
  of: undefined,
  belongTo: (variant) =>
    set((now) => {
      if (now.of === variant) return now;
      for (const key of Object.keys(now.waiting)) setPending(`cell ${key}`, false);
      return { of: variant, editing: null, waiting: {}, anchor: null, refusal: null };
    }),
}));
