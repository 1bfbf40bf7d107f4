// Wiring: which pin goes to which signal, what finds none, the wires of the supply.
import { Download } from "lucide-react";
import { ask, client, type Schemas } from "../../api/client";
import { Answered, useAnswer } from "../../design/fields/answer";
import { StatusMark, STATUS_TEXT } from "../../design/fields/status";
import { actions, useDesign, useOpenDesign } from "../../design/store";
import { Button, Section } from "../../ui/controls";
import { saveCsv } from "../../ui/download";
import { Print } from "./Print";
import { Leads } from "./Leads";
import { leadText } from "./leadText";
import { WiringPicture } from "./WiringPicture";

type Sheet = Schemas["WiringSheet"];
type Host = Schemas["WiringOfHost"];
type Wire = Schemas["WireEnd"];

const CAN: Record<string, string> = {
  in: "read",
  out: "drive",
  analogue: "analogue",
  pulse: "pulse width",
  touch: "touch",
  wake: "wake",
};

export function WiringView() {
  const asking = useAnswer(["wiring"], (design, signal) =>
    ask(client.POST("/api/answers/wiring", { body: design, signal })),
  );
  return (
    <div className="space-y-4">
      <Answered asking={asking} waiting="Assigning the pins" nothing="">
        {(sheet) => (
          <div className="space-y-4">
            <Findings sheet={sheet} />
            {sheet.hosts.map((host) => (
              <Pins key={host.part} host={host} />
            ))}
          </div>
        )}
      </Answered>
      <Leads sheet={asking.data} fresh={asking.fresh} />
    </div>
  );
}

function Findings({ sheet }: { sheet: Sheet }) {
  const count = sheet.hosts.reduce((sum, h) => sum + h.wires.filter((w) => w.pin !== null).length, 0);
  const said = sheet.findings.length
    ? null
    : sheet.note || (count ? `Every signal has its pin: ${count} wires.` : "There is nothing to wire.");
  return (
    <div className="rounded-card border-line bg-sheet border px-4 py-3">
      <div className="flex flex-wrap items-start justify-between gap-2">
        <div className="min-w-0 flex-1 basis-72 space-y-3">
          {said && (
            <p className={`flex items-center gap-1.5 ${STATUS_TEXT[sheet.status]}`}>
              <StatusMark status={sheet.status} size={13} /> {said}
            </p>
          )}
          {sheet.findings.map((f) => (
            <div key={f.text}>
              <p className={`flex items-start gap-1.5 ${STATUS_TEXT[f.severity]}`}>
                <span className="mt-1.5">
                  <StatusMark status={f.severity} size={12} />
                </span>
                {f.text}
              </p>
              <div className="mt-1 flex flex-col items-start gap-1.5 print:hidden">
                {f.ways.map((way) => (
                  <Button
                    key={way.label}
                    className="text-left"
                    onClick={() => actions.applyRemedy(way.label, way.patch)}
                  >
                    {way.label}
                  </Button>
                ))}
              </div>
            </div>
          ))}
          {!!sheet.unsaid.length && (
            <p className="text-soft text-sm">
              Nothing is said of the pins that these need: {sheet.unsaid.join(", ")}. Their details on Draw have a place
              for it.
            </p>
          )}
        </div>
        <div className="flex gap-2 print:hidden">
          <Button onClick={() => saveCsv(tableOf(sheet), "wiring")}>
            <Download size={15} aria-hidden /> CSV
          </Button>
          <Print />
        </div>
      </div>
    </div>
  );
}

const tableOf = (sheet: Sheet) => ({
  head: ["from", "pin", "to", "signal", "note"],
  rows: [
    ...sheet.hosts.flatMap((h) => h.wires.map((w) => [h.name, w.pin ?? "", w.part_name, w.name, w.note])),
    ...sheet.leads.map((l) => [l.source, "", l.target, "supply", leadText(l.wire, l.section_mm2)]),
  ],
});

function Pins({ host }: { host: Host }) {
  const wired = host.wires.filter((w) => w.signal in host.choices);
  return (
    <Section title={host.name}>
      {!host.wires.length && <p className="text-soft">Nothing asks for one of its pins yet.</p>}
      {!!wired.length && <WiringPicture host={host} />}
      <ul className="divide-line/60 mt-2 divide-y">
        {host.wires.map((w) => (
          <WireRow key={w.signal} host={host} wire={w} />
        ))}
      </ul>
      <p className="text-soft mt-3 text-sm">
        {host.free.length
          ? `Left: ${host.free.join(", ")} (${Object.entries(host.left)
              .map(([can, n]) => `${n} can ${CAN[can] ?? can}`)
              .join(", ")}).`
          : "No pin is left: the next change of mind needs another controller."}
      </p>
    </Section>
  );
}

function WireRow({ host, wire }: { host: Host; wire: Wire }) {
  const edit = useDesign((s) => s.edit);
  const design = useOpenDesign();
  const choices = host.choices[wire.signal];
  const taken = new Map(host.wires.filter((w) => w.signal in host.choices).map((w) => [w.pin, w.name]));
  const pick = (pin: string) =>
    edit(pin ? `${wire.name} on ${pin}` : `Any pin for ${wire.name}`, (d) => {
      const wiring = (d.wiring ??= { controller: null, picked: [] });
      wiring.picked = (wiring.picked ?? []).filter((p) => p.signal !== wire.signal);
      if (pin) wiring.picked.push({ signal: wire.signal, pin });
    });
  const picked = design.wiring?.picked?.find((p) => p.signal === wire.signal)?.pin ?? "";
  return (
    <li className="flex break-inside-avoid flex-wrap items-center gap-x-4 gap-y-1 py-2">
      <span className="w-14 shrink-0 text-lg font-semibold tabular-nums sm:w-24">
        {wire.pin ?? <span className="text-fail text-base">no pin</span>}
      </span>
      <span className="min-w-0 flex-1 basis-44">
        <span className="font-medium">{wire.name}</span>
        <span className="text-soft"> · {wire.part_name}</span>
        {wire.wakes && <span className="text-soft"> · wakes</span>}
        {wire.note && <span className="text-soft block text-sm">{wire.note}</span>}
      </span>
      {choices && (
        <select
          aria-label={`Pin for ${wire.name} of ${wire.part_name}`}
          className="border-line bg-paper min-h-9 w-full rounded-md border px-2 text-sm sm:w-52 print:hidden"
          value={picked}
          onChange={(e) => pick(e.target.value)}
        >
          <option value="">any that will do</option>
          {choices.map((pin) => (
            <option key={pin} value={pin}>
              {pin}
              {taken.has(pin) && taken.get(pin) !== wire.name ? `, now ${taken.get(pin)}` : ""}
            </option>
          ))}
        </select>
      )}
    </li>
  );
}
