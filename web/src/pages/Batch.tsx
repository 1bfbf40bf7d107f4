// The bill for one gadget or for many: what is needed, what lies in the drawer, what is to buy.
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Download } from "lucide-react";
import { useState } from "react";
import { useParams } from "react-router";
import { ask, client, type ProblemError, type Schemas } from "../api/client";
import { FigureButton, WorkingDrawer } from "../design/fields/figure";
import { SidePage } from "../shell/SidePage";
import { PILL, Check, INPUT } from "../ui/controls";
import { show } from "../ui/format";
import { useTitle } from "../ui/title";
import { Message } from "./Message";

type Bill = Schemas["BatchBill"];
type Line = Bill["lines"][number];
type Edit = Schemas["DrawerEdit"];

const KINDS = ["csv", "xlsx", "ods"] as const;

export function Batch() {
  const id = Number(useParams()["variantId"]);
  const [count, setCount] = useState("1");
  const [spares, setSpares] = useState(true);
  const wanted = /^[1-9]\d{0,4}$/.test(count) && Number(count) <= 10_000 ? Number(count) : null;
  const bill = useQuery<Bill, ProblemError>({
    queryKey: ["batch", id, wanted, spares],
    queryFn: ({ signal }) =>
      ask(
        client.GET("/api/variants/{variant_id}/batch", {
          params: { path: { variant_id: id }, query: { count: wanted ?? 1, spares } },
          signal,
        }),
      ),
    enabled: wanted !== null,
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
  useTitle("Bill");
  if (bill.isError) return <Message title={bill.error.message} />;
  if (!bill.data) return <Message title="Counting" />;
  const { lines, currency, cost, cost_each, unknown } = bill.data;
  return (
    <SidePage variant={id}>
      <h1 className="text-3xl">Bill of materials for {bill.data.count === 1 ? "one" : bill.data.count}</h1>
      <div className="mt-3 flex flex-wrap items-end gap-x-5 gap-y-2 print:hidden">
        <label className="text-soft w-32 text-sm">
          How many gadgets
          <input
            className={`${INPUT} mt-0.5 max-w-28`}
            inputMode="numeric"
            value={count}
            aria-invalid={wanted === null}
            aria-describedby="count-problem"
            onChange={(e) => setCount(e.target.value.trim())}
          />
        </label>
        <Check label="with spares of what breaks or gets lost" checked={spares} onChange={setSpares} />
        <span className="ml-auto flex gap-2">
          {KINDS.map((kind) => (
            <a
              key={kind}
              className={PILL}
              href={`/api/variants/${id}/batch/${kind}?count=${wanted ?? 1}&spares=${spares}`}
              download
            >
              <Download size={14} aria-hidden /> {kind.toUpperCase()}
            </a>
          ))}
        </span>
      </div>
      <p id="count-problem" role={wanted === null ? "alert" : undefined} className="text-fail text-sm">
        {wanted === null && "A whole number from 1 to 10,000."}
      </p>
      <div className="mt-4 overflow-x-auto" role="region" aria-label="Bill" tabIndex={0}>
        <table className="w-full text-[0.9375rem] [&_td]:px-2 [&_th]:px-2">
          <thead className="text-soft text-sm">
            <tr className="text-right [&_th]:pb-1 [&_th]:font-normal">
              <th scope="col" className="text-left">
                Item
              </th>
              <th scope="col">Each gadget</th>
              <th scope="col">Spare</th>
              <th scope="col">In the drawer</th>
              <th scope="col">To buy</th>
              <th scope="col">Price each</th>
              <th scope="col">Cost</th>
              <th scope="col" className="text-left print:hidden">
                Prices from how many on
              </th>
              <th scope="col" className="print:hidden">
                Comes in days
              </th>
            </tr>
          </thead>
          <tbody>
            {lines.map((line) => (
              <Row key={line.name} line={line} currency={currency} variant={id} />
            ))}
          </tbody>
          <tfoot>
            <tr className="border-line border-t-2 text-right font-semibold">
              <td className="py-1.5 text-left" colSpan={6}>
                In all
              </td>
              <td className="py-1.5 whitespace-nowrap">
                <FigureButton figure={cost} />
              </td>
              <td className="text-soft text-left font-normal" colSpan={2}>
                <FigureButton figure={cost_each} /> for each gadget
              </td>
            </tr>
          </tfoot>
        </table>
      </div>
      {unknown > 0 && (
        <p className="text-watch mt-2 text-sm">
          {unknown === 1 ? "One line has no price and counts" : `${unknown} lines have no price and count`} as nothing.
        </p>
      )}
      <p className="text-soft mt-2 text-sm print:hidden">
        What is typed here of a thing is kept in your drawer, under its name, for all your gadgets.
      </p>
      <WorkingDrawer />
    </SidePage>
  );
}

function Row({ line, currency, variant }: { line: Line; currency: string; variant: number }) {
  const queries = useQueryClient();
  const keep = useMutation<unknown, ProblemError, Partial<Edit>>({
    mutationFn: (change) => {
      const { name, on_hand, breaks, lead_days } = line;
      return ask(client.PUT("/api/drawer", { body: { name, on_hand, breaks, lead_days, ...change } }));
    },
    onSuccess: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: ["batch", variant] }),
        queries.invalidateQueries({ queryKey: ["plan"] }),
      ]),
  });
  const number = (v: number) => v.toLocaleString("en");
  return (
    <tr className="border-line/60 border-t text-right align-top">
      <th scope="row" className="py-1.5 text-left font-normal">
        {line.name}
        {line.note && <span className="text-soft block text-sm">{line.note}</span>}
        {keep.error && (
          <span role="alert" className="text-fail block text-sm">
            {keep.error.sentences.join(" ")}
          </span>
        )}
      </th>
      <td className="py-1.5">{number(line.each_gadget)}</td>
      <td className="py-1.5">{line.spare ? number(line.spare) : ""}</td>
      <td className="py-1">
        <Kept
          label={`In the drawer: ${line.name}`}
          value={line.on_hand ? String(line.on_hand) : ""}
          wide="w-20"
          check={(text) => /^\d{0,6}(\.\d+)?$/.test(text)}
          onKeep={(text) => keep.mutate({ on_hand: Number(text || 0) })}
        />
      </td>
      <td className="py-1.5 font-medium">{number(line.to_buy)}</td>
      <td className="py-1.5 whitespace-nowrap">{line.price === null ? "" : show(line.price, currency)}</td>
      <td className="py-1.5 whitespace-nowrap">{line.cost === null ? "" : show(line.cost, currency)}</td>
      <td className="py-1 text-left print:hidden">
        <Kept
          label={`Prices of ${line.name}`}
          value={line.breaks}
          wide="w-44"
          placeholder="10: 0.80; 100: 0.62"
          onKeep={(breaks) => keep.mutate({ breaks })}
        />
      </td>
      <td className="py-1 print:hidden">
        <Kept
          label={`Days until it comes: ${line.name}`}
          value={line.lead_days === null ? "" : String(line.lead_days)}
          wide="w-16"
          check={(text) => /^\d{0,3}$/.test(text)}
          onKeep={(text) => keep.mutate({ lead_days: text ? Number(text) : null })}
        />
      </td>
    </tr>
  );
}

/** A field whose text is kept when it is left. What is wrong stays in it, marked. */
function Kept({
  label,
  value,
  wide,
  placeholder,
  check = () => true,
  onKeep,
}: {
  label: string;
  value: string;
  wide: string;
  placeholder?: string;
  check?: (text: string) => boolean;
  onKeep: (text: string) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const text = typed ?? value;
  const wrong = !check(text.trim());
  const keep = () => {
    if (typed === null || wrong) return;
    if (text.trim() !== value) onKeep(text.trim());
    else setTyped(null);
  };
  // what was kept comes back as the value, and what was typed gives way to it
  if (typed !== null && typed.trim() === value) setTyped(null);
  return (
    <span className={`inline-block ${wide}`}>
      <input
        className={`${INPUT} print:hidden`}
        aria-label={label}
        aria-invalid={wrong || undefined}
        placeholder={placeholder}
        maxLength={400}
        value={text}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={keep}
        onKeyDown={(e) => e.key === "Enter" && keep()}
      />
      <span className="hidden print:inline">{value}</span>
    </span>
  );
}
