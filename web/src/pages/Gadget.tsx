// One variant, open: the steps above, the work in the middle, the findings beside it, the verdict below.
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { Link, NavLink, Navigate, useNavigate, useParams } from "react-router";
import { ask, client, inSentence } from "../api/client";
import { actions, useDesign } from "../design/store";
import type { StepKey } from "../design/types";
import { Commands } from "../shell/commands";
import { later, Reading, useReadAhead, type Later } from "../shell/later";
import { DocumentTools, TopBar } from "../shell/TopBar";
import { STEPS, stepOf } from "../design/steps";
import { StaleDialog } from "../shell/StaleDialog";
import { INPUT } from "../ui/controls";
import { count } from "../ui/format";
import { useTitle } from "../ui/title";
import { WorkingDrawer } from "../design/fields/figure";
import { VerdictBand } from "../verdict/VerdictBand";
import { Message } from "./Message";

const PAGES: Record<StepKey, Later> = {
  brief: later(() => import("../steps/brief/Brief").then((m) => m.Brief)),
  draw: later(() => import("../steps/draw/Draw").then((m) => m.Draw)),
  supply: later(() => import("../steps/supply/Supply").then((m) => m.Supply)),
  battery: later(() => import("../steps/battery/Battery").then((m) => m.Battery)),
  charge: later(() => import("../steps/charge/Charge").then((m) => m.Charge)),
  runtime: later(() => import("../steps/runtime/Runtime").then((m) => m.Runtime)),
  fit: later(() => import("../steps/fit/Fit").then((m) => m.Fit)),
  bench: later(() => import("../steps/bench/Bench").then((m) => m.Bench)),
  record: later(() => import("../steps/record/Record").then((m) => m.Record)),
};
const ALL_PAGES = Object.values(PAGES);

export function Gadget() {
  const { variantId, step } = useParams();
  const id = Number(variantId);
  const open = useDesign((s) => s.open);
  const opened = useDesign((s) => s.variant?.id === id && s.design !== null);
  const query = useQuery({
    queryKey: ["variant", id],
    queryFn: () => ask(client.GET("/api/variants/{variant_id}", { params: { path: { variant_id: id } } })),
    staleTime: 0,
    gcTime: 0,
    refetchOnWindowFocus: false,
  });
  useEffect(() => {
    if (query.data) void open(query.data);
  }, [query.data, open]);
  const known = STEPS.find((s) => s.key === step);
  useReadAhead(ALL_PAGES, opened);
  useTitle(known?.name, query.data?.project.name);
  if (query.isError)
    return (
      <Message title={query.error.message}>
        <Link to="/gadgets" className="underline">
          All gadgets
        </Link>
      </Message>
    );
  if (!known) return <Navigate to={`/gadgets/${id}/draw`} replace />;
  if (!opened) return <Message title="One moment" />;
  const Page = PAGES[known.key].View;
  return (
    <div className="flex min-h-screen flex-col lg:h-screen print:h-auto print:min-h-0">
      <TopBar>
        <GadgetName />
        <DocumentTools />
      </TopBar>
      <StepTabs />
      <ProblemStrip />
      <NoticeStrip />
      <Reading
        key={known.key}
        meanwhile={
          <main className="text-soft grow p-4" aria-busy="true">
            Opening {known.name}
          </main>
        }
      >
        <Page />
      </Reading>
      <VerdictBand />
      <WorkingDrawer />
      <Commands />
      <StaleDialog />
    </div>
  );
}

function GadgetName() {
  const variant = useDesign((s) => s.variant);
  const navigate = useNavigate();
  const { step } = useParams();
  if (!variant) return null;
  const { project } = variant;
  return (
    <div className="flex min-w-0 items-center gap-2">
      <h1 className="max-w-36 min-w-0 truncate text-lg sm:max-w-72 sm:shrink-0">{project.name}</h1>
      {project.variants.length > 1 ? (
        <select
          aria-label="Variant"
          className={`${INPUT} max-w-52`}
          value={variant.id}
          onChange={(e) => navigate(`/gadgets/${e.target.value}/${step}`)}
        >
          {project.variants.map((v) => (
            <option key={v.id} value={v.id}>
              {v.name}
            </option>
          ))}
        </select>
      ) : (
        <span className="text-soft hidden truncate sm:inline">{variant.name}</span>
      )}
    </div>
  );
}

function StepTabs() {
  const { variantId } = useParams();
  const { step } = useParams();
  const row = useRef<HTMLOListElement>(null);
  useEffect(() => {
    const tab = row.current?.querySelector(`[href$="/${step}"]`);
    tab?.scrollIntoView({ block: "nearest", inline: "nearest" }); // the row scrolls in itself on a narrow screen
  }, [step]);
  const findings = useDesign((s) => s.evaluation?.findings);
  return (
    <nav
      aria-label="Steps"
      className="border-line overflow-x-auto overflow-y-hidden border-b px-1 sm:px-3 print:hidden"
    >
      <ol ref={row} className="flex w-max sm:w-auto sm:flex-wrap">
        {STEPS.map((s) => {
          const open = findings?.filter((f) => f.step === s.key && f.severity !== "note").length ?? 0;
          return (
            <li key={s.key}>
              <NavLink
                to={`/gadgets/${variantId}/${s.key}`}
                className={({ isActive }) =>
                  `relative -mb-px flex min-h-10 items-center border-b-[3px] px-3 py-1.5 sm:px-4 ${isActive ? "border-ink font-semibold" : "text-soft hover:text-ink border-transparent"}`
                }
              >
                {s.name}
                {/* Over the corner of its name: it comes after the page, and must not move what is being clicked. */}
                {open > 0 && (
                  <span
                    className="bg-well text-ink absolute top-0.5 right-0 min-w-4.5 rounded-full px-1 text-center text-[0.6875rem] font-semibold"
                    aria-label={count(open, "finding")}
                  >
                    {open}
                  </span>
                )}
              </NavLink>
            </li>
          );
        })}
      </ol>
    </nav>
  );
}

/** The field of a place of the document, or the first one within it, once its page is there. */
function focusPlace(path: string, tries = 30): void {
  const fields = [...document.querySelectorAll<HTMLElement>("main [data-path], aside [data-path]")];
  const field = fields.find((f) => f.dataset["path"] === path || f.dataset["path"]?.startsWith(`${path}/`));
  if (field) field.focus();
  else if (tries > 0) requestAnimationFrame(() => focusPlace(path, tries - 1));
}

function ProblemStrip() {
  const problems = useDesign((s) => s.problems);
  const undo = useDesign((s) => s.undo);
  const canUndo = useDesign((s) => s.history.past.length > 0);
  const navigate = useNavigate();
  const { variantId } = useParams();
  if (!problems.length) return null;
  const show = (path: string, step: StepKey) => {
    void navigate(`/gadgets/${variantId}/${step}`);
    focusPlace(path);
  };
  return (
    <div role="alert" className="border-fail/40 bg-fail/8 border-b px-4 py-2 text-[0.9375rem]">
      <span className="text-fail font-semibold">The figures below are from before: </span>
      {problems.slice(0, 3).map((p) => {
        const step = stepOf(p.path);
        return (
          <span key={p.path + p.message} className="mr-3">
            {inSentence(p)}
            {step && (
              <button type="button" className="ml-1.5 underline underline-offset-2" onClick={() => show(p.path, step)}>
                Show it
              </button>
            )}
          </span>
        );
      })}
      {problems.length > 3 && <span className="mr-3">and {problems.length - 3} more.</span>}
      {canUndo && (
        <button type="button" className="underline underline-offset-2" onClick={undo}>
          Undo the last edit
        </button>
      )}
    </div>
  );
}

/** What came from another window. */
function NoticeStrip() {
  const notice = useDesign((s) => s.notice);
  return (
    <div role="status" className={notice ? "bg-well flex items-start gap-3 px-4 py-1.5 text-[0.9375rem]" : "sr-only"}>
      {notice && (
        <>
          <span className="min-w-0 flex-1">{notice}</span>
          <button type="button" className="underline underline-offset-2" onClick={actions.forgetNotice}>
            Understood
          </button>
        </>
      )}
    </div>
  );
}
