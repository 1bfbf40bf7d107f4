// What a link shows to whoever has it, without an account: a variant's verdicts and report, or several beside each other.
import { useQuery } from "@tanstack/react-query";
import { Download, Moon, Printer, Sun } from "lucide-react";
import { useEffect } from "react";
import { useParams } from "react-router";
import { ask, client, type ProblemError, type Schemas } from "../api/client";
import { FigureButton, WorkingDrawer } from "../design/fields/figure";
import { STATUS_TEXT, StatusMark } from "../design/fields/status";
import { Mark } from "../shell/Mark";
import { Button, IconButton } from "../ui/controls";
import { date } from "../ui/format";
import { useDark, useTheme } from "../ui/theme";
import { useTitle } from "../ui/title";
import { ComparisonBody } from "./Compare";
import { Message } from "./Message";
import { ReportBody } from "./Report";

type SharedPage = Schemas["SharedOut"];

export function Shared() {
  const secret = useParams()["secret"]!;
  const path = { secret };
  const page = useQuery<SharedPage, ProblemError>({
    queryKey: ["shared", secret],
    queryFn: () => ask(client.GET("/api/shared/{secret}", { params: { path } })),
  });
  useTitle(undefined, page.data?.gadget);
  useEffect(() => {
    const robots = document.createElement("meta");
    robots.name = "robots";
    robots.content = "noindex";
    document.head.append(robots);
    return () => robots.remove();
  }, []);
  if (page.isError)
    return (
      <Message title={page.error.status === 404 ? "There is nothing here" : page.error.message}>
        The link is not complete, has run out, or was taken back. Ask whoever sent it for another one.
      </Message>
    );
  if (!page.data) return <Message title="One moment" />;
  const { gadget, variants, owner, expires } = page.data;
  return (
    <div className="min-h-screen print:bg-white">
      <Head />
      <main id="work" tabIndex={-1} className="mx-auto max-w-5xl space-y-4 px-4 pt-2 pb-10 print:p-0">
        <p className="text-soft text-sm print:hidden">
          {gadget}, {variants.join(" and ")}: shown by {owner}, to be read
          {expires ? ` until ${date(expires)}` : ""}. Every underlined figure opens its working.
        </p>
        {variants.length > 1 ? <Several secret={secret} /> : <Single secret={secret} />}
      </main>
      <WorkingDrawer />
    </div>
  );
}

function Head() {
  const choose = useTheme((s) => s.choose);
  const isDark = useDark();
  return (
    <header className="flex min-h-[52px] items-center gap-2 px-4 py-1.5 print:hidden">
      <Mark />
      <span className="font-display text-lg leading-none font-semibold">Frugal Ember</span>
      <span className="ml-auto flex items-center gap-1">
        <Button kind="quiet" onClick={() => window.print()}>
          <Printer size={15} aria-hidden /> Print
        </Button>
        <IconButton label={isDark ? "Light colours" : "Dark colours"} onClick={() => choose(isDark ? "light" : "dark")}>
          {isDark ? <Sun size={17} /> : <Moon size={17} />}
        </IconButton>
      </span>
    </header>
  );
}

function Single({ secret }: { secret: string }) {
  const path = { secret };
  const report = useQuery<Schemas["ReportContent"], ProblemError>({
    queryKey: ["shared", secret, "report"],
    queryFn: () => ask(client.GET("/api/shared/{secret}/report", { params: { path } })),
  });
  const evaluation = useQuery<Schemas["Evaluation"], ProblemError>({
    queryKey: ["shared", secret, "evaluation"],
    queryFn: () => ask(client.GET("/api/shared/{secret}/evaluation", { params: { path } })),
  });
  return (
    <>
      {report.isError && <p role="alert">{report.error.message}</p>}
      {report.isPending && <p className="text-soft">Putting the report together</p>}
      {report.data && (
        <>
          <ReportBody report={report.data}>
            {evaluation.data && (
              <ul
                aria-label="Verdict"
                className="rounded-card border-line bg-sheet mt-5 grid grid-cols-2 gap-x-4 gap-y-3 border p-4 sm:grid-cols-4"
              >
                {evaluation.data.verdicts.map((v) => (
                  <li key={v.key}>
                    <span className="text-soft block text-[0.8125rem]">{v.label}</span>
                    <FigureButton figure={v.figure} className="font-display text-[1.375rem] leading-tight" />
                    <span
                      className={`flex items-center gap-1.5 text-[0.8125rem] font-semibold ${STATUS_TEXT[v.status]}`}
                    >
                      <StatusMark status={v.status} size={13} /> {v.word}
                    </span>
                  </li>
                ))}
              </ul>
            )}
          </ReportBody>
          <p className="print:hidden">
            <a
              className="bg-ink text-paper inline-flex min-h-8 items-center gap-1.5 rounded-full px-3 py-1 text-sm font-medium"
              href={`/api/shared/${secret}/report.pdf`}
              download
            >
              <Download size={14} aria-hidden /> The report as PDF
            </a>
          </p>
        </>
      )}
    </>
  );
}

function Several({ secret }: { secret: string }) {
  const comparison = useQuery<Schemas["Comparison"], ProblemError>({
    queryKey: ["shared", secret, "compare"],
    queryFn: () => ask(client.GET("/api/shared/{secret}/compare", { params: { path: { secret } } })),
  });
  if (comparison.isError) return <p role="alert">{comparison.error.message}</p>;
  return comparison.data ? <ComparisonBody comparison={comparison.data} /> : <p className="text-soft">Comparing</p>;
}
