// Which cell of the grid is being edited, and the text it began with.
import { create } from "zustand";

type Cell = { part: string; mode: string };

export const useGridEdit = create<{
  editing: (Cell & { text: string | null }) | null;
  begin: (cell: Cell, text: string | null) => void;
  end: () => void;
}>((set) => ({
  editing: null,
  begin: (cell, text) => set({ editing: { ...cell, text } }),
  end: () => set({ editing: null }),
}));
