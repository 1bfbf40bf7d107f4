// Pins of a controller and signals of a part, as text: one a line.
import { useQuery } from "@tanstack/react-query";
import { useId, useState } from "react";
import { ask, client, ProblemError } from "../../api/client";
import type { Part } from "../../design/types";
import { INPUT } from "../../ui/controls";
import { useKeptText, useTypedText } from "../../ui/typed";
import type { ChangePart } from "./change";

const KINDS = {
  pins: {
    label: "Pins",
    hint: "One a line: P4: in out analogue wake pull. Buses by number and line: i2c0.sda, spi0.clock, uart0.send. A row: P5..P8.",
  },
  needs: {
    label: "Needs of the controller",
    hint: "One a line: key: in x3 wakes pull, or display: i2c 0x3C 0x3D. As the controller has it: in is read.",
  },
} as const;

export function PinFields({ part, change }: { part: Part; change: ChangePart }) {
  const body = { pins: part.pins ?? [], needs: part.needs ?? [] };
  const written = useQuery({
    queryKey: ["pins-text", body],
    queryFn: ({ signal }) => ask(client.POST("/api/answers/pins/text", { body, signal })),
    staleTime: Infinity,
    enabled: body.pins.length + body.needs.length > 0,
  });
  const texts = written.data ?? { pins: "", needs: "" };
  if (body.pins.length + body.needs.length > 0 && !written.data) return null;
  return (
    <details className="text-sm" open={body.pins.length + body.needs.length > 0 || undefined}>
      <summary className="cursor-pointer py-1 font-medium">Pins and signals</summary>
      <div className="space-y-2">
        {part.kind === "controller" || part.kind === "interface" || body.pins.length > 0 ? (
          <Lines key={`pins ${texts.pins}`} of="pins" part={part.id} text={texts.pins} change={change} />
        ) : null}
        {part.kind !== "controller" || body.needs.length > 0 ? (
          <Lines key={`needs ${texts.needs}`} of="needs" part={part.id} text={texts.needs} change={change} />
        ) : null}
      </div>
    </details>
  );
}

type LinesProps = { of: "pins" | "needs"; part: string; text: string; change: ChangePart };

function Lines({ of, part, text, change }: LinesProps) {
  const id = useId();
  const { text: draft, type: setDraft, taken } = useKeptText(`${of} ${part}`);
  const [wrong, setWrong] = useState<string[]>([]);
  const { label, hint } = KINDS[of];
  const put = async (typed: string) => {
    try {
      const read = await ask(client.POST("/api/answers/pins", { body: { [of]: typed } }));
      change(label, (item) => {
        if (of === "pins") item.pins = read.pins;
        else {
          // at whose pins a signal is stands in no line
          const at = new Map(item.needs?.map((n) => [n.name, n.at ?? null]));
          item.needs = read.needs.map((n) => ({ ...n, at: at.get(n.name) ?? null }));
        }
      });
      setWrong([]);
      taken(typed);
    } catch (error) {
      setWrong(
        error instanceof ProblemError ? error.problems.map(inWords) : ["The server does not answer; try again."],
      );
    }
  };
  const left = useTypedText(draft !== null, () => draft !== null && void put(draft));
  return (
    <div>
      <label htmlFor={id} className="text-soft block">
        {label}
      </label>
      <textarea
        id={id}
        className={`${INPUT} font-mono text-xs`}
        rows={Math.min(Math.max((draft ?? text).split("\n").length, 2), 10)}
        value={draft ?? text}
        spellCheck={false}
        aria-invalid={wrong.length ? true : undefined}
        aria-describedby={`${id}-hint`}
        onChange={(e) => {
          setDraft(e.target.value);
          left.done(false);
        }}
        onFocus={() => left.done(false)}
        onBlur={() => left.left()}
        onKeyDown={(e) => {
          if (e.key !== "Escape") return;
          setDraft(null);
          setWrong([]);
        }}
      />
      {wrong.map((line) => (
        <p key={line} role="alert" className="text-fail">
          {line}
        </p>
      ))}
      <p id={`${id}-hint`} className="text-soft text-xs">
        {hint}
      </p>
    </div>
  );
}

const inWords = (problem: { path: string; message: string }): string => {
  const line = /^\/lines\/(\d+)$/.exec(problem.path)?.[1];
  return line === undefined ? problem.message : `Line ${Number(line) + 1}: ${problem.message}`;
};
