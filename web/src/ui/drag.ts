// One way to drag: by pointer from where it was taken hold of; Escape, or the system, gives it up and nothing has moved.
import { useEffect, useRef, useState, type PointerEvent } from "react";

/** How far it is from where it began, in pixels to the right and downwards. */
export type By = { dx: number; dy: number };

type Hold<T> = { what: T; x: number; y: number };

type Options<T> = {
  /** while it is dragged; `at` is where the pointer is */
  move: (what: T, by: By, at: PointerEvent) => void;
  /** when it is let go, or given up (`kept` is false) */
  end: (what: T, kept: boolean) => void;
  /** pixels below which it is a click */
  from?: number;
};

export function useDrag<T>({ move, end, from = 0 }: Options<T>) {
  const hold = useRef<Hold<T> | null>(null);
  const begun = useRef(false);
  const [held, setHeld] = useState(false);
  const release = (kept: boolean) => {
    const { current } = hold;
    hold.current = null;
    setHeld(false);
    if (current && begun.current) end(current.what, kept);
    begun.current = false;
  };
  const latest = useRef(release);
  useEffect(() => {
    latest.current = release;
  });
  useEffect(() => {
    if (!held) return undefined;
    const onKey = (e: KeyboardEvent) => {
      if (e.key !== "Escape") return;
      e.stopPropagation();
      latest.current(false);
    };
    window.addEventListener("keydown", onKey, true);
    return () => window.removeEventListener("keydown", onKey, true);
  }, [held]);
  return {
    /** Of the pointer's going down on what can be dragged. */
    take: (e: PointerEvent, what: T) => {
      if (e.button !== 0) return;
      e.currentTarget.setPointerCapture(e.pointerId);
      hold.current = { what, x: e.clientX, y: e.clientY };
      setHeld(true);
    },
    /** For the element that is dragged. */
    handlers: {
      onPointerMove: (e: PointerEvent) => {
        const { current } = hold;
        if (!current) return;
        const by = { dx: e.clientX - current.x, dy: e.clientY - current.y };
        if (!begun.current && Math.hypot(by.dx, by.dy) < from) return;
        begun.current = true;
        move(current.what, by, e);
      },
      onPointerUp: () => release(true),
      onPointerCancel: () => release(false),
    },
  };
}
