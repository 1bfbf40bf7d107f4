// Variants beside each other: what differs, what is said of each, and why the runtime is another one.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Fragment } from "react";
import { useParams, useSearchParams } from "react-router";
import { ask, client, type ProblemError, type Schemas } from "../api/client";
import { useProjects } from "../api/queries";
import { FigureButton, WorkingDrawer } from "../design/fields/figure";
import { SeverityMark, STATUS_TEXT, StatusMark } from "../design/fields/status";
import { later, Reading } from "../shell/later";
import { SidePage } from "../shell/SidePage";
import { Button, Section } from "../ui/controls";
import { rangeOf, Ranges } from "../ui/ranges";
import { GadgetPicture } from "../ui/gadgetPicture";
import { useTitle } from "../ui/title";
import { Falls, TwoAxes } from "./comparisonPictures";
import { Message } from "./Message";

const InSpace = later<{ ids: readonly number[]; names: readonly string[] }>(
  async () => (await import("../steps/fit/CasesInSpace")).CasesInSpace,
).View;

type Comparison = Schemas["Comparison"];
type Compared = Schemas["ComparedDesign"];

export function Compare() {
  const { variantId } = useParams();
  const [asked] = useSearchParams();
  const ids = [Number(variantId), ...asked.getAll("with").map(Number)];
  const query = useQuery({
    queryKey: ["compare", ...ids],
    queryFn: () => ask(client.GET("/api/compare", { params: { query: { variant: ids } } })),
    staleTime: 0,
  });
  const projects = useProjects();
  const own = projects.data?.find((p) => p.variants.some((v) => v.id === ids[0]));
  const may = own !== undefined && own.role !== "view";
  useTitle("Compare");
  if (query.isError) return <Message title={query.error.message} />;
  if (!query.data) return <Message title="Comparing" />;
  return (
    <SidePage variant={Number(variantId)}>
      <div className="space-y-4">
        <ComparisonBody comparison={query.data} variants={ids} ids={may ? ids : undefined} />
      </div>
      <WorkingDrawer />
    </SidePage>
  );
}

/** Everything that a comparison says. */
export function ComparisonBody({
  comparison,
  variants,
  ids,
}: {
  comparison: Comparison;
  /** what is compared, for who has an account */
  variants?: number[];
  /** the same where something may be taken over */
  ids?: number[];
}) {
  const { designs, verdicts, rows, more } = comparison;
  return (
    <>
      <h1 className="text-3xl">{designs.map((d) => d.name).join(" · ")}</h1>
      <Verdicts designs={designs} verdicts={verdicts} />
      <Section title="How long each lasts">
        <Ranges label="Runtimes" unit="h" ranges={designs.flatMap((d, i) => rangeOf(d.name, d.runtime, i === 0))} />
      </Section>
      <Section title="How the battery falls">
        <Falls designs={designs} />
      </Section>
      <TwoAxes designs={designs} verdicts={verdicts} />
      {variants && (
        <Section title="The cases in space" className="print:[&:not(:has(canvas))]:hidden">
          <Reading meanwhile={<p className="text-soft">Looking at the cases</p>}>
            <InSpace ids={variants} names={designs.map((d) => d.name)} />
          </Reading>
        </Section>
      )}
      {designs.slice(1).map((d) => (
        <Why key={d.name} first={designs[0]!} other={d} />
      ))}
      <Differences designs={designs} rows={rows} more={more} ids={ids} />
    </>
  );
}

function Verdicts({ designs, verdicts }: { designs: readonly Compared[]; verdicts: Comparison["verdicts"] }) {
  return (
    <div className="overflow-x-auto" role="region" aria-label="Verdicts beside each other" tabIndex={0}>
      <table className="w-full table-fixed text-sm" style={{ minWidth: `${9 + 10 * designs.length}rem` }}>
        <thead>
          <tr className="align-bottom">
            <td className="w-36" />
            {designs.map((d) => (
              <th key={d.name} scope="col" className="px-2 pb-2 text-left font-medium">
                <GadgetPicture light={d.picture} dark={d.picture_dark} width={180} />
                <span className="font-display text-lg">{d.name}</span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {verdicts.map((v) => (
            <tr key={v.key} className="border-line/60 border-t align-top">
              <th scope="row" className="text-soft py-2 pr-2 text-left font-normal">
                {v.label}
              </th>
              {v.figures.map((f, i) => (
                <td key={i} className="px-2 py-2">
                  <FigureButton figure={f} withRange={v.key === "runtime"} className="font-display text-lg" />
                  <span className={`flex items-center gap-1.5 font-medium ${STATUS_TEXT[v.status[i]!]}`}>
                    <StatusMark status={v.status[i]!} size={12} /> {v.words[i]}
                  </span>
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Why({ first, other }: { first: Compared; other: Compared }) {
  return (
    <Section title={`${other.name} against ${first.name}`}>
      <div className="grid gap-x-8 gap-y-4 md:grid-cols-2">
        <div>
          <h3 className="text-base">Why it lasts longer or shorter</h3>
          {other.terms.length ? (
            <ul className="mt-1">
              {other.terms.map((t) => (
                <li key={t.area} className="border-line/60 flex justify-between gap-4 border-b py-1">
                  <span>{t.area}</span>
                  <FigureButton figure={t.hours} />
                </li>
              ))}
            </ul>
          ) : (
            <p className="text-soft">Nothing that moves the runtime differs.</p>
          )}
        </div>
        <div>
          <Found title="Findings that come with it" findings={other.gained} nothing="No finding comes with it." />
          <Found title="Findings that go" findings={other.lost} nothing="No finding goes." />
        </div>
      </div>
    </Section>
  );
}

function Found({ title, findings, nothing }: { title: string; findings: Compared["gained"]; nothing: string }) {
  return (
    <div className="mb-3">
      <h3 className="text-base">{title}</h3>
      {!findings.length && <p className="text-soft">{nothing}</p>}
      <ul className="mt-1 space-y-1">
        {findings.map((f, i) => (
          <li key={`${f.title} ${i}`} className="flex items-baseline gap-2">
            <SeverityMark severity={f.severity} />
            <span className="min-w-0">{f.title}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}

const areaOf = (row: Comparison["rows"][number] | undefined) => row?.place.split(" › ")[0];

/** The head of what differs in one part of the documents, all of which can be taken over at once. */
function Area({
  area,
  designs,
  differs,
  take,
  busy,
}: {
  area: string;
  designs: readonly Compared[];
  differs: boolean[];
  take: ((i: number, place: string) => void) | undefined;
  busy: boolean;
}) {
  return (
    <tr className="border-line border-t">
      <th scope="rowgroup" className="pt-3 pr-3 pb-1 text-left font-semibold">
        {area}
      </th>
      {designs.map((d, i) => (
        <td key={d.name} className="px-2 pt-3 pb-1">
          {take && differs[i] && (
            <Button
              kind="quiet"
              className="print:hidden"
              disabled={busy}
              aria-label={`Take all of it over into ${designs[0]!.name}: ${area} of ${d.name}`}
              onClick={() => take(i, area)}
            >
              Take all of it over
            </Button>
          )}
        </td>
      ))}
    </tr>
  );
}

function Differences({
  designs,
  rows,
  more,
  ids,
}: {
  designs: readonly Compared[];
  rows: Comparison["rows"];
  more: number;
  /** the variants, where what differs may be taken over into the first */
  ids?: number[];
}) {
  const queries = useQueryClient();
  const take = useMutation<unknown, ProblemError, { other: number; place: string }>({
    mutationFn: (body) =>
      ask(client.POST("/api/variants/{variant_id}/take-over", { params: { path: { variant_id: ids![0]! } }, body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["compare"] }),
  });
  return (
    <Section title="What differs">
      {take.error && (
        <p role="alert" className="text-fail mb-2 text-sm">
          It was not taken over: {take.error.sentences.join(" ")}
        </p>
      )}
      {!rows.length && <p className="text-soft">Nothing: their documents are the same.</p>}
      {rows.length > 0 && (
        <div className="overflow-x-auto" role="region" aria-label="What differs" tabIndex={0}>
          <table className="w-full text-sm">
            <thead>
              <tr className="text-soft text-left">
                <th scope="col" className="pr-3 pb-1 font-normal">
                  Where
                </th>
                {designs.map((d) => (
                  <th key={d.name} scope="col" className="px-2 pb-1 font-normal">
                    {d.name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map((row, k) => (
                <Fragment key={row.place}>
                  {areaOf(row) !== areaOf(rows[k - 1]) && (
                    <Area
                      area={areaOf(row)!}
                      designs={designs}
                      differs={designs.map((_, i) => rows.some((r) => areaOf(r) === areaOf(row) && r.differs[i]))}
                      take={ids && ((i, place) => take.mutate({ other: ids[i]!, place }))}
                      busy={take.isPending}
                    />
                  )}
                  <tr className="border-line/60 border-t align-top">
                    <th scope="row" className="py-1 pr-3 text-left font-normal">
                      {row.place}
                    </th>
                    {row.values.map((value, i) => (
                      <td key={i} className={`px-2 py-1 ${row.differs[i] ? "font-medium" : "text-soft"}`}>
                        {value}
                        {ids && row.differs[i] && (
                          <Button
                            kind="quiet"
                            className="ml-1 print:hidden"
                            disabled={take.isPending}
                            aria-label={`Take over into ${designs[0]!.name}: ${row.place}, ${value}`}
                            onClick={() => take.mutate({ other: ids[i]!, place: row.place })}
                          >
                            Take over
                          </Button>
                        )}
                      </td>
                    ))}
                  </tr>
                </Fragment>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {more > 0 && <p className="text-soft mt-1 text-sm">and {more} more places</p>}
    </Section>
  );
}
