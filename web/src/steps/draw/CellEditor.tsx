// Typing into a cell. The core says what was meant; a doubtful text comes back with choices to press. Enter, Tab and
// leaving put it in; only Escape drops it.
import { useEffect, useId, useRef, useState, type KeyboardEvent } from "react";
import type { Part } from "../../design/types";
import { INPUT, Offered } from "../../ui/controls";
import { useTypedText } from "../../ui/typed";
import type { Cell, Refusal } from "./entry";
import { useGridEdit, type Waiting } from "./gridEdit";

/** Where to go from a cell that is done: down and to the right, in cells. */
export type Step = [down: number, across: number];

export function CellEditor({
  part,
  cell,
  initial,
  written,
  waiting,
  enter,
  finish,
}: {
  part: Part;
  cell: Cell;
  /** what was typed to begin with; null: the cell as it is */
  initial: string | null;
  written: string;
  waiting: Waiting | undefined;
  enter: (text: string) => Promise<Refusal | null>;
  finish: (step: Step) => void;
}) {
  const before = initial === null ? waiting : undefined;
  const [text, setText] = useState(initial ?? before?.text ?? written);
  const [problem, setProblem] = useState<Refusal | null>(before?.refusal ?? null);
  const holder = useRef<HTMLDivElement>(null);
  const input = useRef<HTMLInputElement>(null);
  const leave = useGridEdit((s) => s.leave);
  const id = useId();

  useEffect(() => {
    input.current?.focus();
    if (initial === null) input.current?.select();
  }, [initial]);

  /** Left without Enter or Tab: what is understood goes in, what is not waits. */
  const typed = useTypedText(text !== written, () => {
    void enter(text).then((refusal) => leave(cell, refusal && { text, refusal }));
  });
  const commit = async (given: string, step: Step) => {
    typed.done(true); // on its way: leaving meanwhile does not put it in twice
    const refusal = await enter(given);
    const still = holder.current?.contains(document.activeElement) ?? false;
    setProblem(refusal);
    if (refusal && still) {
      typed.done(false);
      input.current?.focus();
      return;
    }
    leave(cell, refusal && { text: given, refusal });
    if (still) finish(step);
  };
  const drop = () => {
    typed.done(true);
    leave(cell, null);
    finish([0, 0]);
  };
  const onKeyDown = (e: KeyboardEvent) => {
    e.stopPropagation();
    if (e.key === "Enter") void commit(text, [e.shiftKey ? -1 : 1, 0]);
    else if (e.key === "Tab") {
      e.preventDefault();
      void commit(text, [0, e.shiftKey ? -1 : 1]);
    } else if (e.key === "Escape") drop();
  };
  const onBlur = (to: Element | null) => {
    if (to?.closest(`[data-choices="${id}"]`)) return;
    if (typed.left()) return;
    leave(cell, null);
  };
  return (
    <div ref={holder} className="absolute inset-0 z-20" onPointerDown={(e) => e.stopPropagation()}>
      <input
        ref={input}
        value={text}
        aria-label={`${part.name} in this mode`}
        aria-invalid={problem ? true : undefined}
        aria-describedby={problem ? id : undefined}
        list={`${id}-states`}
        autoComplete="off"
        onChange={(e) => {
          setText(e.target.value);
          setProblem(null);
        }}
        onKeyDown={onKeyDown}
        onCopy={(e) => e.stopPropagation()}
        onPaste={(e) => e.stopPropagation()}
        onBlur={(e) => onBlur(e.relatedTarget)}
        className={`${INPUT} bg-sheet h-full`}
      />
      <datalist id={`${id}-states`}>
        {part.states.map((s) => (
          <option key={s.name} value={s.name} />
        ))}
      </datalist>
      {problem && (
        <div
          id={id}
          role="alert"
          data-choices={id}
          className="border-fail/60 bg-sheet absolute top-full left-0 z-30 mt-1 w-72 rounded-md border p-2.5 text-left text-sm shadow-lg"
        >
          <p>{problem.message}</p>
          <Offered texts={problem.choices} onPick={(choice) => void commit(choice, [0, 0])} />
        </div>
      )}
    </div>
  );
}
