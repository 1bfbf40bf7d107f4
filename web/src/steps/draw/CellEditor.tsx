// Typing into a cell. The core says what was meant; a doubtful text comes back with choices to press.
import { useEffect, useId, useRef, useState, type KeyboardEvent } from "react";
import type { Part } from "../../design/types";
import { Button, INPUT } from "../../ui/controls";
import type { Refusal } from "./entry";
import { useGridEdit } from "./gridEdit";

export function CellEditor({
  part,
  initial,
  written,
  enter,
  finish,
}: {
  part: Part;
  /** what was typed to begin with; null: the cell as it is */
  initial: string | null;
  written: string;
  enter: (text: string) => Promise<Refusal | null>;
  finish: (rows: number) => void;
}) {
  const [text, setText] = useState(initial ?? written);
  const [problem, setProblem] = useState<Refusal | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const end = useGridEdit((s) => s.end);
  const id = useId();

  useEffect(() => {
    input.current?.focus();
    if (initial === null) input.current?.select();
  }, [initial]);

  const commit = async (typed: string, rows: number) => {
    const refusal = await enter(typed);
    setProblem(refusal);
    if (refusal) input.current?.focus();
    else finish(rows);
  };
  const onKeyDown = (e: KeyboardEvent) => {
    e.stopPropagation();
    if (e.key === "Enter") void commit(text, e.shiftKey ? -1 : 1);
    else if (e.key === "Escape") finish(0);
    else if (e.key === "Tab") end();
  };
  return (
    <div className="absolute inset-0 z-20" onPointerDown={(e) => e.stopPropagation()}>
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
        onBlur={(e) => !e.relatedTarget?.closest(`[data-choices="${id}"]`) && end()}
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
          {problem.choices.length > 0 && (
            <div className="mt-2 flex flex-wrap gap-1.5">
              {problem.choices.map((choice) => (
                <Button key={choice} onClick={() => void commit(choice, 0)}>
                  {choice}
                </Button>
              ))}
            </div>
          )}
        </div>
      )}
    </div>
  );
}
