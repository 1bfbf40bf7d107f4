// The best of all supplies: of every pack, charger and stage of the catalogue those that no other beats, in a picture of two axes and a
// table; one that is picked is put into the gadget and judged whole before it can be kept.
import { useState } from "react";
import { useQuery } from "@tanstack/react-query";
import { ask, client, ProblemError, type Schemas } from "../../api/client";
import { done } from "../../api/jobs";
import { Answered, useAnswer } from "../../design/fields/answer";
import { QuantityField } from "../../design/fields/fields";
import { FigureButton } from "../../design/fields/figure";
import { StatusMark, STATUS_TEXT } from "../../design/fields/status";
import { useOpenDesign } from "../../design/store";
import type { Design } from "../../design/types";
import { Button, Check, Choice, Toggles } from "../../ui/controls";
import { Dialog } from "../../ui/dialog";
import { show } from "../../ui/format";
import { Problems } from "../../ui/problems";
import { AIMS, keyOf, REFILLS, unitOf, valueOf, type Aim, type Row } from "./bestOf";
import { BestPicture } from "./BestPicture";
import { KeepSupply } from "./KeepSupply";

type Limits = { cost: number | null; mass: number | null; hours: number | null };

export function BestSupplies() {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>Best of all</Button>
      <Dialog title="The best of all supplies" open={open} onOpenChange={setOpen} wide="table">
        {open && <Search />}
      </Dialog>
    </>
  );
}

function Search() {
  const { brief } = useOpenDesign();
  const [aims, setAims] = useState<Aim[]>(["cost"]);
  const [limits, setLimits] = useState<Limits>({
    cost: brief.cost_max ?? null,
    mass: brief.mass_max_g ?? null,
    hours: brief.charge_max_h ?? null,
  });
  const [stopped, setStopped] = useState(false);
  const { parts } = useOpenDesign();
  const beside = parts.some((p) => p.alternatives?.length);
  const [others, setOthers] = useState(false);
  const limit = (key: keyof Limits) => (value: number | null) => setLimits((now) => ({ ...now, [key]: value }));
  return (
    <>
      <p className="text-soft mb-3">
        Every pack of the catalogue with every charger and stage for it; modes and day as they are, parts that could
        sleep behind a load switch with and without it. Kept are those of which no other lasts longer when it is coldest
        for as little of what counts.
      </p>
      <div className="mb-3">
        <Toggles
          label="What counts beside the runtime"
          options={Object.entries(AIMS) as [Aim, string][]}
          chosen={aims}
          onChange={(chosen) => chosen.length > 0 && setAims(chosen)}
        />
      </div>
      <div className="mb-3 grid gap-3 sm:grid-cols-3">
        <QuantityField
          label={`At most, ${brief.currency}`}
          value={limits.cost}
          dimension="cost"
          optional
          positive
          onCommit={limit("cost")}
          placeholder="any"
        />
        <QuantityField
          label="At most, mass"
          value={limits.mass}
          dimension="mass"
          optional
          positive
          onCommit={limit("mass")}
          placeholder="any"
        />
        <QuantityField
          label="At most, charge"
          value={limits.hours}
          dimension="time"
          unit="h"
          optional
          positive
          onCommit={limit("hours")}
          placeholder="any"
        />
      </div>
      {beside && (
        <div className="mb-3">
          <Check
            label="Try the parts that are kept beside others, too (takes longer)"
            checked={others}
            onChange={setOthers}
          />
        </div>
      )}
      {stopped ? (
        <p className="flex items-center gap-2" role="status">
          The search was stopped.
          <Button onClick={() => setStopped(false)}>Search again</Button>
        </p>
      ) : (
        <Searching aims={aims} limits={limits} others={others} onStop={() => setStopped(true)} />
      )}
    </>
  );
}

/** The search as a job: how far it is, and what it found. Going away stops it. */
type SearchingProps = { aims: Aim[]; limits: Limits; others: boolean; onStop: () => void };

function Searching({ aims, limits, others, onStop }: SearchingProps) {
  const [share, setShare] = useState(0);
  const asking = useAnswer(["choice", aims, limits, others], async (design, signal) => {
    setShare(0);
    const asked = client.POST("/api/jobs/choice", {
      // a room that nothing reaches: without any limit those of the brief would count
      params: { query: { aim: aims, parts: others, room: 1e6, ...given(limits) } },
      body: design,
    });
    const job = await done(ask(asked), setShare, signal);
    if (!job.choice) throw new ProblemError(422, job.problem || "The search was stopped elsewhere", [], {});
    return job.choice;
  });
  return (
    <>
      {(asking.data === undefined || !asking.fresh) && !asking.error && (
        <div className="mb-2 flex items-center gap-2 text-sm" role="status">
          <progress className="grow" value={share} aria-label="Looking at every supply" />
          <Button kind="quiet" onClick={onStop}>
            Stop
          </Button>
        </div>
      )}
      <Answered asking={asking} waiting="Looking at every supply; this takes some seconds" nothing="">
        {(answer) => <Found key={`${aims.join()} ${others} ${JSON.stringify(limits)}`} answer={answer} />}
      </Answered>
    </>
  );
}

const given = (limits: Limits) =>
  Object.fromEntries(Object.entries(limits).filter(([, value]) => value !== null)) as Partial<
    Record<keyof Limits, number>
  >;

const SHOWN = 12;

function Found({ answer }: { answer: Schemas["ChoiceAnswer"] }) {
  const { brief } = useOpenDesign();
  const goal = brief.goal_h ?? null;
  const [axis, setAxis] = useState<Aim>(answer.aims[0]!);
  const currency = brief.currency ?? "EUR";
  const [refill, setRefill] = useState<Row["refill"] | "all">("all");
  const [picked, setPicked] = useState<string | null>(null);
  const [more, setMore] = useState(false);
  const rows = answer.rows.filter((r) => refill === "all" || r.refill === refill);
  const enough = goal === null ? rows : rows.filter((r) => (r.runtime.value ?? 0) >= goal);
  // what reaches the goal, the smallest first, then what lasts longest
  const ordered = [
    ...enough.toSorted((a, b) => valueOf(a, axis) - valueOf(b, axis)),
    ...rows.filter((r) => !enough.includes(r)),
  ];
  const row = answer.rows.find((r) => keyOf(r) === picked) ?? null;
  return (
    <>
      {answer.note && <p className="text-ink mb-2 font-medium">{answer.note}</p>}
      {!!answer.rows.length && (
        <>
          <p className="mb-2">{answer.mine}</p>
          <BestPicture
            answer={answer}
            axis={axis}
            rows={rows}
            unit={unitOf(axis, currency)}
            goal={goal}
            picked={picked}
            onPick={setPicked}
          />
          <div className="my-2 flex flex-wrap items-end justify-between gap-2">
            <Choice
              label="Refilled"
              value={refill}
              options={[
                ["all", "any way"],
                ...(Object.entries(REFILLS) as [Row["refill"], string][]).filter(([key]) =>
                  answer.rows.some((r) => r.refill === key),
                ),
              ]}
              onChange={setRefill}
            />
            {answer.aims.length > 1 && (
              <Choice
                label="Picture and order by"
                value={axis}
                options={answer.aims.map((a) => [a, AIMS[a]] as const)}
                onChange={setAxis}
              />
            )}
            <p className="text-soft text-sm">
              {rows.length} of {answer.combinations.toLocaleString("en")} combinations, {answer.solved} worked out
            </p>
          </div>
          {row && <Judged row={row} onClose={() => setPicked(null)} />}
          <Rows
            rows={more ? ordered : ordered.slice(0, SHOWN)}
            aims={answer.aims}
            currency={currency}
            goal={goal}
            picked={picked}
            onPick={setPicked}
          />
          {ordered.length > SHOWN && (
            <Button kind="quiet" onClick={() => setMore(!more)}>
              {more ? "Fewer" : `All ${ordered.length}`}
            </Button>
          )}
          <LeftOut cells={answer.left_out} />
        </>
      )}
    </>
  );
}

type RowsProps = {
  rows: readonly Row[];
  aims: readonly Aim[];
  currency: string;
  goal: number | null;
  picked: string | null;
  onPick: (key: string) => void;
};

function Rows({ rows, aims, currency, goal, picked, onPick }: RowsProps) {
  return (
    <div className="overflow-x-auto" role="region" aria-label="The best supplies" tabIndex={0}>
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left">
            {["Supply", "when coldest", ...aims.map((a) => AIMS[a]), ""].map((h, i) => (
              <th key={i} scope="col" className="border-line border-b px-2 py-1 font-medium first:pl-0">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => {
            const key = keyOf(r);
            return (
              <tr key={key} className={`border-line/60 border-b align-top ${key === picked ? "bg-well" : ""}`}>
                <th scope="row" className="min-w-56 py-1.5 pr-2 text-left font-normal">
                  <span className="font-medium">{r.pack}</span>
                  {r.now && <span className="text-soft"> (now)</span>}
                  <span className="text-soft block text-xs">
                    {[REFILLS[r.refill], r.charger && `${r.charger}, ${r.setting}`, ...r.stages]
                      .filter(Boolean)
                      .join(" · ")}
                  </span>
                </th>
                <td className="px-2 py-1.5 whitespace-nowrap">
                  <FigureButton figure={r.runtime} />
                  {goal !== null && (r.runtime.value ?? 0) < goal && (
                    <span className="text-soft block text-xs">short of {show(goal, "h")}</span>
                  )}
                </td>
                {aims.map((a) => (
                  <td key={a} className="px-2 py-1.5 whitespace-nowrap">
                    {show(valueOf(r, a), unitOf(a, currency))}
                  </td>
                ))}
                <td className="py-1.5 text-right">
                  <Button
                    className="whitespace-nowrap"
                    aria-label={`Look closer: ${r.pack}`}
                    onClick={() => onPick(key)}
                  >
                    Look closer
                  </Button>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

const WORDS = { pass: "works", watch: "works, but", fail: "not as it stands", unknown: "not known" } as const;

/** A supply put into the gadget and judged whole. */
function Judged({ row, onClose }: { row: Row; onClose: () => void }) {
  const design = useOpenDesign();
  const judged = useQuery<Schemas["SchoolAnswer"], ProblemError>({
    queryKey: ["chosen", keyOf(row), design],
    queryFn: ({ signal }) => judge(row, design, signal),
    staleTime: Infinity,
  });
  const found = judged.data;
  return (
    <section
      aria-label={`Looked at closely: ${row.pack}`}
      className="border-ember bg-well/50 my-3 rounded-lg border p-3 text-sm"
    >
      <div className="flex flex-wrap items-start justify-between gap-2">
        <h3 className="text-base font-semibold">{row.pack}</h3>
        <span className="flex gap-2">
          {found?.design && <KeepSupply school={found} />}
          <Button kind="quiet" onClick={onClose}>
            Close
          </Button>
        </span>
      </div>
      {!found && !judged.error && <p className="text-soft">Putting it into the gadget</p>}
      <Problems error={judged.error} />
      {found && (
        <>
          <p className={`my-1 flex items-center gap-1 font-semibold ${STATUS_TEXT[found.status]}`}>
            <StatusMark status={found.status} size={13} /> {WORDS[found.status]}
          </p>
          {found.blame && <p className="mb-1">{found.blame}</p>}
          <ul className="flex flex-wrap gap-x-4 gap-y-1">
            {found.verdicts.map((v) => (
              <li key={v.key} className={`flex items-center gap-1.5 ${STATUS_TEXT[v.status]}`} title={v.sentence}>
                <StatusMark status={v.status} size={11} /> {v.word}
              </li>
            ))}
          </ul>
          <p className="text-soft mt-2">{[found.refill, found.risks].filter(Boolean).join(". ")}</p>
        </>
      )}
    </section>
  );
}

const judge = (row: Row, design: Design, signal: AbortSignal) =>
  ask(
    client.POST("/api/answers/choice/design", {
      params: {
        query: {
          cell: row.cell,
          series: row.series,
          parallel: row.parallel,
          charger: row.charger,
          options: row.options,
          parts: row.parts,
        },
      },
      body: design,
      signal,
    }),
  );

function LeftOut({ cells }: { cells: Schemas["ChoiceAnswer"]["left_out"] }) {
  const [sought, setSought] = useState("");
  const found = cells.filter((c) => c.name.toLowerCase().includes(sought.trim().toLowerCase()));
  return (
    <details className="mt-3 text-sm">
      <summary className="cursor-pointer">Why another cell is not among them ({cells.length})</summary>
      <input
        className="border-line bg-paper my-2 w-full rounded-md border px-2 py-1 sm:w-72"
        placeholder="Name of a cell"
        aria-label="Name of a cell"
        value={sought}
        onChange={(e) => setSought(e.target.value)}
      />
      <ul className="space-y-1">
        {found.slice(0, 40).map((c) => (
          <li key={c.name}>
            <span className="font-medium">{c.name}:</span> {c.reason}
          </li>
        ))}
      </ul>
      {found.length > 40 && <p className="text-soft">and {found.length - 40} more</p>}
    </details>
  );
}
