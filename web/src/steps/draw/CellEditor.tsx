// Typing into a cell. The core says what was meant; a doubtful text comes back with choices to press.
import { useEffect, useId, useRef, useState, type KeyboardEvent } from "react";
import { ask, client, ProblemError, type Schemas } from "../../api/client";
import { setUse } from "../../design/edits";
import { useDesign } from "../../design/store";
import type { Part, Use } from "../../design/types";
import { Button, INPUT } from "../../ui/controls";
import { editable } from "../../ui/format";
import { useGridEdit } from "./gridEdit";

export function CellEditor({
  part,
  mode,
  use,
  initial,
  finish,
}: {
  part: Part;
  mode: string;
  use: Use | undefined;
  initial: string | null;
  finish: (rows: number) => void;
}) {
  const [text, setText] = useState(initial ?? (use ? written(use) : ""));
  const [problem, setProblem] = useState<{ message: string; choices: string[] } | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const edit = useDesign((s) => s.edit);
  const end = useGridEdit((s) => s.end);
  const id = useId();

  useEffect(() => {
    input.current?.focus();
    if (initial === null) input.current?.select();
  }, [initial]);

  const commit = async (typed: string, rows: number) => {
    try {
      const entry = await ask(client.POST("/api/cell", { body: { text: typed, part } }));
      edit(`${part.name}: ${typed.trim() || "nothing"}`, (draft) => apply(draft, entry, part.id, mode, use));
      finish(rows);
    } catch (error) {
      if (error instanceof ProblemError)
        setProblem({
          message: error.message,
          choices: (error.more["choices"] as string[] | undefined) ?? [],
        });
      else setProblem({ message: "The server does not answer; try again.", choices: [] });
      input.current?.focus();
    }
  };
  const onKeyDown = (e: KeyboardEvent) => {
    e.stopPropagation();
    if (e.key === "Enter") void commit(text, e.shiftKey ? -1 : 1);
    else if (e.key === "Escape") finish(0);
    else if (e.key === "Tab") end();
  };
  return (
    <div className="absolute inset-0 z-20">
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

function written(use: Use): string {
  return use.duty < 1 ? `${use.state} ${editable(use.duty, "share")}` : use.state;
}

function apply(
  draft: Schemas["Design"],
  entry: Schemas["CellEntry"],
  partId: string,
  mode: string,
  use: Use | undefined,
): void {
  if (entry.clear) return setUse(draft, mode, partId, null);
  const change: Partial<Use> = {};
  if (entry.state) {
    change.state = entry.state;
    change.duty = entry.duty ?? 1;
    change.burst = [];
    change.period_s = null;
  } else if (entry.duty !== null && entry.duty !== undefined) change.duty = entry.duty;
  setUse(draft, mode, partId, change);
  if (entry.current_a === null || entry.current_a === undefined) return;
  const part = draft.parts.find((p) => p.id === partId);
  const name = entry.state ?? use?.state ?? part?.states[0]?.name;
  const state = part?.states.find((s) => s.name === name);
  if (state) {
    state.draw = { behaviour: "current", current_a: { typical: entry.current_a, least: null, most: null } };
    if (state.provenance !== "measured") state.provenance = "guess";
  }
}
