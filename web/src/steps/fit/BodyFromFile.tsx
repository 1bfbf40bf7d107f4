// A body, or the whole case, from a file: brought, read by the server, and taken over; a file without a unit and of an unusual size is asked about.
import { useMutation } from "@tanstack/react-query";
import { useId, useRef, useState } from "react";
import { ask, client, ProblemError, type Schemas } from "../../api/client";
import { done } from "../../api/jobs";
import { upload } from "../../api/upload";
import type { Body, Design } from "../../design/types";
import { Button, INPUT } from "../../ui/controls";
import { show } from "../../ui/format";
import { Problems } from "../../ui/problems";

type Mesh = Schemas["MeshBody"];
type Unit = NonNullable<Schemas["MeshIn"]["unit"]>;
const UNITS: readonly (readonly [Unit, string])[] = [
  ["mm", "millimetres"],
  ["cm", "centimetres"],
  ["m", "metres"],
  ["in", "inches"],
];

export function BodyFromFile({ change }: { change: (label: string, work: (body: Body) => void) => void }) {
  const take = (mesh: Mesh) =>
    change("Shape from a file", (body) => {
      body.size_mm = mesh.size_mm as Body["size_mm"];
      body.shape = "mesh";
      body.hull_mm = mesh.hull_mm as Body["hull_mm"];
      body.off_mm = mesh.off_mm;
      body.surface = mesh.surface ?? null;
      body.file = mesh.name;
    });
  const told = (mesh: Mesh) => `It is judged by its ${mesh.surface ? "surface" : "hull"}.`;
  return <FromFile asCase={false} take={take} told={told} />;
}

/** A case from a file in place of the box: what holds it is in the file too. */
export function CaseFromFile({ change }: { change: (label: string, work: (e: Design["enclosure"]) => void) => void }) {
  const take = ({ name, size_mm, surface, volume_mm3, case: measured }: Mesh) => {
    if (!surface || !measured) return;
    change("Case from a file", (e) => {
      e.shape = { name, surface, volume_mm3, thin: measured.thin };
      e.outer_mm = size_mm as typeof e.outer_mm;
      const [left, right, front, back, bottom, top] = measured.walls_mm as Six;
      e.walls_mm = { left, right, front, back, bottom, top };
      e.wall_mm = left;
      e.corner_mm = e.edge_mm = e.taper_deg = e.dome_mm = 0;
      e.labels = []; // a file has its own
      e.fastenings = [];
      e.split_mm = null;
    });
  };
  const told = ({ case: measured }: Mesh) =>
    measured ? `Its walls were looked at every ${show(measured.spacing_mm, "mm")}.` : "";
  return <FromFile asCase take={take} told={told} />;
}

type Six = [number, number, number, number, number, number];

function FromFile({
  asCase,
  take,
  told,
}: {
  asCase: boolean;
  take: (mesh: Mesh) => void;
  told: (mesh: Mesh) => string;
}) {
  const id = useId();
  const [share, setShare] = useState(0);
  const [brought, setBrought] = useState<string | null>(null);
  const ending = useRef(new AbortController());
  const reading = useMutation<Mesh, Error, { digest: string; unit: Unit | null }>({
    mutationFn: ({ digest, unit }) => read({ digest, unit, as_case: asCase }, setShare, ending.current.signal),
    onSuccess: (mesh) => {
      if (!mesh.doubtful) take(mesh);
    },
  });
  const bringing = useMutation<string, Error, File>({
    mutationFn: (file) => upload(file, setShare, ending.current.signal),
    onSuccess: (digest) => {
      setBrought(digest);
      setShare(0);
      reading.mutate({ digest, unit: null });
    },
  });
  const busy = bringing.isPending || reading.isPending;
  const mesh = reading.data;
  const problem = [bringing.error, reading.error].find((e) => e && e.name !== "AbortError");
  return (
    <div className="space-y-1">
      <label htmlFor={id} className="text-soft block text-sm">
        Its shape from a file (STL, OBJ, 3MF or STEP)
      </label>
      <input
        id={id}
        type="file"
        accept=".stl,.obj,.3mf,.step,.stp"
        className={INPUT}
        disabled={busy}
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = "";
          if (!file) return;
          ending.current = new AbortController();
          reading.reset();
          setShare(0);
          bringing.mutate(file);
        }}
      />
      {busy && (
        <div className="flex items-center gap-2 text-sm" role="status">
          <progress className="grow" value={share} aria-label={bringing.isPending ? "Bringing it" : "Reading it"} />
          <Button kind="quiet" onClick={() => ending.current.abort()}>
            Give up
          </Button>
        </div>
      )}
      {mesh && !busy && (
        <div className="text-sm" role="status">
          <p>
            {mesh.name}: {mesh.size_mm.map((v) => show(v, "mm")).join(" × ")}, {mesh.triangles} triangles
            {mesh.notes.length > 0 && `; ${mesh.notes.join("; ")}`}. {told(mesh)}
          </p>
          {mesh.doubtful && brought && (
            <fieldset>
              <legend className="text-watch">An unusual size, and the file does not say its unit. It is in</legend>
              <div className="flex flex-wrap gap-1.5">
                {UNITS.map(([unit, name]) => (
                  <Button key={unit} onClick={() => reading.mutate({ digest: brought, unit })}>
                    {name}
                  </Button>
                ))}
              </div>
            </fieldset>
          )}
        </div>
      )}
      {problem &&
        (problem instanceof ProblemError ? (
          <Problems error={problem} />
        ) : (
          <p role="alert" className="text-fail text-sm">
            {problem instanceof TypeError
              ? "The server does not answer; nothing is changed. Try again."
              : problem.message}
          </p>
        ))}
    </div>
  );
}

/** The body in a file, as the server reads it. */
async function read(asked: Schemas["MeshIn"], told: (share: number) => void, signal: AbortSignal): Promise<Mesh> {
  const job = await done(ask(client.POST("/api/jobs/mesh", { body: asked })), told, signal);
  if (!job.body) throw new Error(job.problem ? `The file can't be used: ${job.problem}.` : "It was given up.");
  return job.body;
}
