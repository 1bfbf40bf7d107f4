// The report of a variant as a page: to be read, printed, or taken as a PDF. What it says is the core's, chapter by chapter.
import { useQuery } from "@tanstack/react-query";
import { Download, Printer } from "lucide-react";
import { useState, type ReactNode } from "react";
import { Link, useParams } from "react-router";
import { ask, client, type Schemas } from "../api/client";
import { SeverityMark, StatusMark } from "../design/fields/status";
import { TopBar } from "../shell/TopBar";
import { Button, Check, Choice } from "../ui/controls";
import { GadgetPicture } from "../ui/gadgetPicture";
import { useTitle } from "../ui/title";
import { Message } from "./Message";

type Block = Schemas["ReportBlock"];
type Chapter = Schemas["ReportChapter"];
type Paper = "a4" | "us-letter";
const PAPERS: readonly (readonly [Paper, string])[] = [
  ["a4", "A4"],
  ["us-letter", "Letter"],
];

export function Report() {
  const { variantId } = useParams();
  const id = Number(variantId);
  const [without, setWithout] = useState<readonly string[]>([]);
  const [paper, setPaper] = useState<Paper>("a4");
  const report = useQuery({
    queryKey: ["report", id],
    queryFn: () => ask(client.GET("/api/variants/{variant_id}/report", { params: { path: { variant_id: id } } })),
    staleTime: 0,
  });
  useTitle("Report", report.data?.title);
  if (report.isError) return <Message title={report.error.message} />;
  if (!report.data) return <Message title="Putting the report together" />;
  const { title, chapters } = report.data;
  const query = new URLSearchParams([["paper", paper], ...without.map((key) => ["without", key])]);
  return (
    <div className="min-h-screen print:bg-white">
      <div className="print:hidden">
        <TopBar>
          <Link to={`/gadgets/${id}/record`} className="truncate underline underline-offset-2">
            Back to {title}
          </Link>
        </TopBar>
        <div className="border-line bg-well/40 border-y px-4 py-3">
          <div className="mx-auto flex max-w-4xl flex-wrap items-center gap-x-4 gap-y-2">
            <fieldset className="flex flex-wrap gap-x-4">
              <legend className="text-soft text-sm">Chapters</legend>
              {chapters.map((c) => (
                <Check
                  key={c.key}
                  label={c.title}
                  checked={!without.includes(c.key)}
                  onChange={(on) => setWithout(on ? without.filter((k) => k !== c.key) : [...without, c.key])}
                />
              ))}
            </fieldset>
            <span className="ml-auto flex items-center gap-2">
              <span className="w-24">
                <Choice label="Paper" bare value={paper} options={PAPERS} onChange={setPaper} />
              </span>
              <Button onClick={() => window.print()}>
                <Printer size={15} aria-hidden /> Print
              </Button>
              <a
                className="bg-ink text-paper inline-flex min-h-8 items-center gap-1.5 rounded-full px-3 py-1 text-sm font-medium"
                href={`/api/variants/${id}/report.pdf?${query}`}
                download
              >
                <Download size={14} aria-hidden /> PDF
              </a>
            </span>
          </div>
        </div>
      </div>
      <main id="work" tabIndex={-1} className="mx-auto max-w-4xl px-4 py-6 print:max-w-none print:p-0">
        <ReportBody report={report.data} without={without} />
      </main>
    </div>
  );
}

/** What it says, from its title to its last line. */
export function ReportBody({
  report,
  without = [],
  children,
}: {
  report: Schemas["ReportContent"];
  without?: readonly string[];
  /** what stands below its title */
  children?: ReactNode;
}) {
  const { title, summary, picture, picture_dark, chapters, closing } = report;
  return (
    <>
      <header className="flex flex-wrap items-center justify-between gap-4">
        <div className="min-w-64 flex-1">
          <h1 className="text-4xl">{title}</h1>
          <p className="text-soft mt-1">{summary}</p>
        </div>
        <GadgetPicture light={picture} dark={picture_dark} width={240} />
      </header>
      {children}
      {chapters
        .filter((c) => !without.includes(c.key))
        .map((c) => (
          <ReportChapter key={c.key} chapter={c} />
        ))}
      <p className="text-soft mt-8 text-xs">{closing}</p>
    </>
  );
}

function ReportChapter({ chapter }: { chapter: Chapter }) {
  return (
    <section className="mt-8" aria-labelledby={`chapter-${chapter.key}`}>
      <h2 id={`chapter-${chapter.key}`} className="break-after-avoid text-2xl">
        {chapter.title}
      </h2>
      {chapter.blocks.map((block, i) => (
        <ReportBlock key={i} block={block} />
      ))}
    </section>
  );
}

function ReportBlock({ block }: { block: Block }) {
  switch (block.kind) {
    case "text":
      return <p className="mt-2 max-w-prose print:max-w-none">{block.text}</p>;
    case "picture":
      return (
        <img
          src={`data:image/svg+xml,${encodeURIComponent(block.svg)}`}
          alt={block.text}
          className="mt-3 w-full break-inside-avoid"
          style={{ maxWidth: block.wide_mm ? `${block.wide_mm}mm` : undefined }}
        />
      );
    case "finding":
      return (
        <div className="mt-3 max-w-prose break-inside-avoid print:max-w-none">
          {block.severity && <SeverityMark severity={block.severity} />}
          <h3 className="text-base">{block.title}</h3>
          <p className="text-soft">{block.text}</p>
        </div>
      );
    default:
      return <ReportTable block={block} />;
  }
}

function ReportTable({ block }: { block: Block }) {
  const side = (k: number) => (k < block.figures || block.figures > 3 ? "text-left" : "text-right whitespace-nowrap");
  return (
    <div className="mt-3 overflow-x-auto">
      {block.title && <h3 className="mb-1 text-base">{block.title}</h3>}
      <table className="w-full text-sm">
        <thead>
          <tr className="text-soft">
            {block.head.map((h, k) => (
              <th key={h} scope="col" className={`border-line border-b px-1.5 py-1 font-normal ${side(k)}`}>
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {block.rows.map((row, i) => (
            <tr key={i} className="border-line/60 break-inside-avoid border-b align-top">
              {row.map((cell, k) => (
                <td key={k} className={`px-1.5 py-1 ${side(k)}`}>
                  {k === 0 && block.status[i] && (
                    <span className="mr-1.5 inline-block align-[-2px]">
                      <StatusMark status={block.status[i]} size={12} />
                    </span>
                  )}
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
