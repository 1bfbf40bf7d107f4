// What is being typed is never lost: leaving the field, the step or the page puts it in or asks.
import { useEffect, useId, useLayoutEffect, useRef, useState } from "react";

/** Texts that are in no document yet, by a key each. */
const pendingTexts = new Set<string>();

window.addEventListener("beforeunload", (e) => {
  if (pendingTexts.size > 0) e.preventDefault();
});

/** Tells that there is a text that would be lost with the page, or no longer. */
export function setPending(key: string, pending: boolean): void {
  if (pending) pendingTexts.add(key);
  else pendingTexts.delete(key);
}

type Typed = {
  /** whether the text has been put in, or is on its way */
  done: (done: boolean) => void;
  /** puts it in if it was not; tells whether it is in, or on its way */
  left: () => boolean;
};

/** `put` is called once when a text that is not done is left: by the focus going elsewhere (`left`), or with its field
 * going away. While it is pending the browser asks before it closes the page. */
export function useTypedText(pending: boolean, put: () => void): Typed {
  const key = useId();
  const state = useRef({ pending, put, done: false, mounted: true });
  useLayoutEffect(() => {
    Object.assign(state.current, { pending, put });
  });
  const left = () => {
    const now = state.current;
    if (!now.pending || now.done) return now.done;
    now.done = true;
    now.put();
    return true;
  };
  const leave = useRef(left);
  useEffect(() => {
    setPending(key, pending);
    return () => setPending(key, false);
  }, [key, pending]);
  useEffect(() => {
    const [now, away] = [state.current, leave.current];
    now.mounted = true;
    return () => {
      now.mounted = false;
      queueMicrotask(() => now.mounted || away()); // it may only be mounted anew
    };
  }, []);
  return {
    done: (done) => {
      state.current.done = done;
    },
    left,
  };
}

const keptTexts = new Map<string, string>();

/** What is being typed under a key, null where nothing is: it is there again when its field is, until it was taken. `taken` may be called when the field is
 * long gone; what was typed since stays. */
export function useKeptText(key: string) {
  const [text, show] = useState(() => keptTexts.get(key) ?? null);
  const type = (next: string | null) => {
    if (next === null) keptTexts.delete(key);
    else keptTexts.set(key, next);
    show(next);
  };
  const taken = (was: string) => keptTexts.get(key) === was && type(null);
  return { text, type, taken };
}
