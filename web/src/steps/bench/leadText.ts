// How thick a wire is, in words.
import type { Schemas } from "../../api/client";
import { show } from "../../ui/format";

type Lead = Schemas["Lead"];

const thickness = (section: number | null) => (section === null ? "thicker than 2.5 mm²" : show(section, "mm²"));

/** How thick a wire is, or has to be, in words. */
export function leadText(wire: Lead | null, needed: number | null): string {
  if (!wire) return needed === null ? thickness(null) : `at least ${thickness(needed)}`;
  const copper =
    wire.section_mm2 === null ? `trace ${show(wire.trace_mm ?? null, "mm")}` : show(wire.section_mm2, "mm²");
  return `${copper}, ${show(wire.length_mm, "mm")}`;
}
