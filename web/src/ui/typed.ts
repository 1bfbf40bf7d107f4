// What is being typed is never lost: leaving the field, the step or the page puts it in or asks.
import { useEffect, useId, useLayoutEffect, useRef } from "react";

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
