// Instruments: kept by name and address, asked who they are, read once, and recorded with, while they supply the gadget within what its design allows.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { useState, type FormEvent } from "react";
import { ask, client, ProblemError, type Schemas } from "../../api/client";
import { Answered, useAnswer } from "../../design/fields/answer";
import { useInstruments, useMeasurement, type Instrument } from "../../design/measuring";
import { useMayChange } from "../../design/store";
import { Button, Check, Choice, IconButton, INPUT, Labelled, Section } from "../../ui/controls";
import { show } from "../../ui/format";
import { Problems } from "../../ui/problems";

type Ask = Schemas["MeasureIn"];
type Limits = Schemas["SupplyLimits"];

const LINKS: readonly (readonly [Instrument["link"], string])[] = [
  ["socket", "raw socket"],
  ["hislip", "HiSLIP"],
  ["vxi-11", "VXI-11"],
];

const USUAL_PORTS = { socket: "5025", hislip: "4880", "vxi-11": "111" } as const;
const UNITS = { current: "A", voltage: "V", temperature: "°C" } as const;

export function InstrumentsView({ onRecorded }: { onRecorded: () => void }) {
  const reach = useInstruments();
  const may = useMayChange();
  if (!may) return <p className="text-soft">Whoever may change this gadget measures it from here.</p>;
  if (reach.error) return <Problems error={reach.error} />;
  if (!reach.data) return <p className="text-soft">Looking for instruments</p>;
  const { networks, instruments } = reach.data;
  if (!networks.length)
    return (
      <Section title="Instruments">
        <p>
          This server reaches no instruments. Whoever runs it names the networks that it may reach, and starts it with
          them: <code>EMBER_INSTRUMENT_NETWORKS=192.168.7.0/24 ./ember start</code>.
        </p>
        <p className="text-soft mt-2 text-sm">
          A recording from a file can be brought at Traces. <code>./ember standin demo/dusk-ear.json</code> starts a
          simulated instrument at 127.0.0.1, to try it.
        </p>
      </Section>
    );
  return (
    <div className="space-y-4">
      {instruments.map((own) => (
        <One key={own.id} own={own} onRecorded={onRecorded} />
      ))}
      <Add networks={networks} />
    </div>
  );
}

function Add({ networks }: { networks: string[] }) {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [host, setHost] = useState("");
  const [port, setPort] = useState("5025");
  const [link, setLink] = useState<Instrument["link"]>("socket");
  const add = useMutation<unknown, ProblemError>({
    mutationFn: () => ask(client.PUT("/api/instruments", { body: { name, host, port: Number(port), link } })),
    onSuccess: () => {
      setName("");
      return queries.invalidateQueries({ queryKey: ["instruments"] });
    },
  });
  const field = (
    label: string,
    id: string,
    value: string,
    set: (v: string) => void,
    path: string,
    placeholder = "",
  ) => (
    <Labelled id={id} label={label} problem={add.error?.at(path)}>
      <input
        id={id}
        className={INPUT}
        value={value}
        placeholder={placeholder}
        autoComplete="off"
        aria-invalid={!!add.error?.at(path)}
        onChange={(e) => set(e.target.value)}
      />
    </Labelled>
  );
  return (
    <Section title="Another instrument">
      <form
        className="grid grid-cols-2 items-start gap-3 sm:grid-cols-[1.4fr_1.4fr_5rem_8rem_auto]"
        onSubmit={(e: FormEvent) => {
          e.preventDefault();
          add.mutate();
        }}
      >
        {field("Name", "instrument-name", name, setName, "/name", "supply on the bench")}
        {field("Address", "instrument-host", host, setHost, "/host", "192.168.7.20")}
        {field("Port", "instrument-port", port, setPort, "/port")}
        <Choice
          label="By"
          value={link}
          options={LINKS}
          onChange={(by) => {
            setLink(by);
            setPort(USUAL_PORTS[by]);
          }}
        />
        <Button type="submit" className="mt-6" disabled={!name.trim() || !host.trim()} busy={add.isPending}>
          Add
        </Button>
      </form>
      {add.error && !["/name", "/host", "/port"].some((p) => add.error.at(p)) && <Problems error={add.error} />}
      <p className="text-soft mt-2 text-sm">
        Source-measure units, supplies that read back, digitising meters, thermometers and electronic loads that speak
        SCPI. A load is asked where a cell is checked, in Battery. Reached in {networks.join(", ")} only.
      </p>
    </Section>
  );
}

function One({ own, onRecorded }: { own: Instrument; onRecorded: () => void }) {
  const queries = useQueryClient();
  const limits = useAnswer<Limits>(["supply-limits"], (design, signal) =>
    ask(client.POST("/api/answers/supply-limits", { body: design, signal })),
  );
  const remove = useMutation<unknown, ProblemError>({
    mutationFn: () =>
      ask(client.DELETE("/api/instruments/{instrument_id}", { params: { path: { instrument_id: own.id } } })),
    onSettled: () => queries.invalidateQueries({ queryKey: ["instruments"] }),
  });
  return (
    <Section
      title={own.name}
      aside={
        <IconButton label={`Take ${own.name} away`} onClick={() => remove.mutate()}>
          <Trash2 size={15} aria-hidden />
        </IconButton>
      }
    >
      <Problems error={remove.error} />
      <p className="text-soft text-sm">
        {own.host}:{own.port}
        {own.identity && ` · ${own.identity}`}
      </p>
      <Answered asking={limits} waiting="Looking at what the gadget may be given" nothing="">
        {(may) => <Asked own={own} may={may} onRecorded={onRecorded} />}
      </Answered>
    </Section>
  );
}

function Asked({ own, may, onRecorded }: { own: Instrument; may: Limits; onRecorded: () => void }) {
  const [supply, setSupply] = useState(true);
  const [volts, setVolts] = useState(may.usual_v.toFixed(2));
  const [limit, setLimit] = useState(String(may.most_a));
  const [seconds, setSeconds] = useState("30");
  const [rate, setRate] = useState("1000");
  const [level, setLevel] = useState("");
  const { measure, share, wrong, giveUp } = useMeasurement((told) => told.trace != null && onRecorded());
  const supplied = supply ? { volts: Number(volts), limit_a: Number(limit) } : {};
  const at = (path: string) => (measure.error instanceof ProblemError ? measure.error.at(path) : undefined);
  const field = (label: string, key: string, value: string, set: (v: string) => void, path: string) => (
    <Labelled id={`${own.id}-${key}`} label={label} problem={at(path)}>
      <input
        id={`${own.id}-${key}`}
        className={INPUT}
        inputMode="decimal"
        autoComplete="off"
        value={value}
        aria-invalid={!!at(path)}
        onChange={(e) => set(e.target.value)}
      />
    </Labelled>
  );
  const go = (wanted: Pick<Ask, "action"> & Partial<Ask>) =>
    measure.mutate({
      instrument: own.id,
      range_a: Math.max(Number(limit) || may.most_a, may.most_a),
      rate_hz: Number(rate),
      seconds: Number(seconds),
      level_a: level.trim() ? Number(level) / 1000 : null,
      ...(wanted.action === "identify" || wanted.what === "temperature" ? {} : supplied),
      ...wanted,
    });
  const { data, variables } = measure;
  return (
    <div className="mt-2">
      <Check label="It supplies the gadget in the battery's place" checked={supply} onChange={setSupply} />
      <div className="mt-1 grid grid-cols-2 gap-3 sm:grid-cols-5">
        {supply && field("Volts [V]", "volts", volts, setVolts, "/volts")}
        {supply && field("Limit [A]", "limit", limit, setLimit, "/limit_a")}
        {field("Seconds", "seconds", seconds, setSeconds, "/seconds")}
        {field("Samples a second", "rate", rate, setRate, "/rate_hz")}
        {field("From a rise over [mA]", "level", level, setLevel, "/level_a")}
      </div>
      <p className="text-soft mt-1 text-sm">
        {supply
          ? `This gadget's battery gives ${show(may.low_v, "V")} to ${show(may.high_v, "V")}; more than ${show(may.most_a, "A")} is not set. Take the cell out first. The output goes off at the end, however it ends.`
          : "The instrument only measures, in line with the battery or at its terminals."}
      </p>
      <div className="mt-2 flex flex-wrap items-center gap-1.5">
        <Button onClick={() => go({ action: "identify" })} disabled={measure.isPending}>
          Who is it?
        </Button>
        <Button onClick={() => go({ action: "read" })} disabled={measure.isPending}>
          Read the current
        </Button>
        <Button onClick={() => go({ action: "read", what: "voltage" })} disabled={measure.isPending}>
          Read the voltage
        </Button>
        <Button onClick={() => go({ action: "read", what: "temperature" })} disabled={measure.isPending}>
          Read the temperature
        </Button>
        <Button kind="strong" onClick={() => go({ action: "trace" })} disabled={measure.isPending}>
          Record
        </Button>
        {measure.isPending && (
          <>
            <progress className="grow" value={share} aria-label={`Measuring with ${own.name}`} />
            <Button kind="quiet" onClick={giveUp}>
              Stop
            </Button>
          </>
        )}
        {data && !measure.isPending && (
          <span role="status" className="tabular-nums">
            {data.value != null ? show(data.value, UNITS[variables?.what ?? "current"]) : data.identity}
          </span>
        )}
      </div>
      {wrong && !["/volts", "/limit_a", "/seconds", "/rate_hz", "/level_a"].some(at) && (
        <p role="alert" className="text-fail mt-2 text-sm">
          {wrong}
        </p>
      )}
    </div>
  );
}
