// Several cases beside each other in space, at one scale, turned together.
import { useQueries } from "@tanstack/react-query";
import { useEffect, useRef, useState, type KeyboardEvent } from "react";
import { ask, client, type Schemas } from "../../api/client";
import type { Design, Evaluation } from "../../design/types";
import { Button, Check } from "../../ui/controls";
import { Problems } from "../../ui/problems";
import { useTheme } from "../../ui/theme";
import { contentOf, shownBodies } from "./content";
import { halfDiagonal } from "./eye";
import { canDraw, CaseScene } from "./scene";

type Drawn = { id: number; design: Design; fit: Evaluation["fit"]; shell: Schemas["ShellAnswer"] };

/** What there is to draw of a variant. */
async function drawn(id: number, signal: AbortSignal): Promise<Drawn> {
  const path = { variant_id: id };
  const variant = await ask(client.GET("/api/variants/{variant_id}", { params: { path }, signal }));
  const { design } = variant;
  const [{ fit }, shell] = await Promise.all([
    ask(client.POST("/api/evaluate", { body: design, signal })),
    ask(client.POST("/api/answers/shell", { body: design, signal })),
  ]);
  return { id, design, fit, shell };
}

const TURNS: Record<string, readonly [number, number]> = {
  ArrowLeft: [1, 0],
  ArrowRight: [-1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

type Cases = { ids: readonly number[]; names: readonly string[] };

/** They are worked out when somebody wants to see them: it takes an evaluation and a case for each. */
export function CasesInSpace(cases: Cases) {
  const [wanted, setWanted] = useState(false);
  const [drawable] = useState(canDraw);
  if (!drawable) return <p className="text-soft">This browser draws nothing in space (it has no WebGL).</p>;
  if (wanted) return <Asked {...cases} />;
  return <Button onClick={() => setWanted(true)}>Look at them at one scale</Button>;
}

function Asked({ ids, names }: Cases) {
  const found = useQueries({
    queries: ids.map((id) => ({
      queryKey: ["compare", "in space", id], // anew with the comparison
      queryFn: ({ signal }: { signal: AbortSignal }) => drawn(id, signal),
      staleTime: 60_000,
    })),
  });
  const failed = found.find((f) => f.error);
  const all = found.flatMap((f) => (f.data ? [f.data] : []));
  if (failed) return <Problems error={failed.error} again={() => void Promise.all(found.map((f) => f.refetch()))} />;
  if (all.length < ids.length) return <p className="text-soft">Looking at the cases</p>;
  return <Side key={found.map((f) => f.dataUpdatedAt).join()} all={all} names={names} />;
}

function Side({ all, names }: { all: readonly Drawn[]; names: readonly string[] }) {
  const theme = useTheme((s) => s.theme);
  const [apart, setApart] = useState(false);
  const canvases = useRef<(HTMLCanvasElement | null)[]>([]);
  const scenes = useRef<CaseScene[]>([]);
  const first = useRef({ all, theme });

  useEffect(() => {
    const around = Math.max(...first.current.all.map((d) => halfDiagonal(d.design.enclosure.outer_mm)));
    const made = first.current.all.map((one, i) => {
      const here = canvases.current[i]!;
      const colour = (name: string) => getComputedStyle(here).getPropertyValue(name).trim() || "gray";
      const scene = new CaseScene(here, null, colour);
      scene.resize(here.clientWidth, here.clientHeight);
      const { design, fit, shell } = one;
      scene.show({ ...contentOf(design, fit, shownBodies(design, fit, null), shell, first.current.theme), around });
      return scene;
    });
    made.forEach((scene, i) => scene.lead(made.filter((_, k) => k !== i)));
    scenes.current = made;
    const watched = new ResizeObserver(() => {
      made.forEach((scene, i) => {
        const here = canvases.current[i];
        if (here) scene.resize(here.clientWidth, here.clientHeight);
      });
    });
    for (const here of canvases.current) if (here) watched.observe(here);
    return () => {
      watched.disconnect();
      for (const scene of made) scene.dispose();
      scenes.current = [];
    };
  }, []);
  useEffect(() => {
    for (const scene of scenes.current) scene.setApart(apart);
  }, [apart]);

  const onKey = (e: KeyboardEvent) => {
    const turn = TURNS[e.key];
    const lead = scenes.current[0];
    if (!lead) return;
    if (turn) lead.orbit(...turn);
    else if (e.key === "+" || e.key === "=") lead.zoom(0.85);
    else if (e.key === "-") lead.zoom(1.18);
    else return;
    e.preventDefault();
  };
  return (
    <>
      {/* oxlint-disable-next-line jsx-a11y/no-noninteractive-element-interactions -- an application takes keys */}
      <div
        tabIndex={0}
        role="application"
        aria-label={`The cases of ${names.join(", ")} in space, at one scale`}
        className="focus-visible:outline-ink grid grid-cols-[repeat(auto-fit,minmax(14rem,1fr))] gap-2 focus-visible:outline-2"
        onKeyDown={onKey}
      >
        {all.map((one, i) => (
          <figure key={one.id}>
            <canvas
              ref={(here) => {
                canvases.current[i] = here;
              }}
              data-testid="case-in-space"
              className="border-line block h-64 w-full touch-none rounded-md border"
            />
            <figcaption className="text-soft mt-1 text-sm">
              {names[i]}: {one.design.enclosure.outer_mm.join(" × ")} mm
            </figcaption>
          </figure>
        ))}
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-x-4 text-sm">
        <Check label="Taken apart" checked={apart} onChange={setApart} />
        <span className="text-soft">At one scale, turned together: by dragging, or arrows, plus and minus.</span>
      </div>
    </>
  );
}
