// Figures with their names, one to a row; what there is none of is left out.
import type { Figure } from "../types";
import { Row } from "../../ui/row";
import { FigureButton } from "./figure";

export function FigureRows({ figures }: { figures: readonly (Figure | null | undefined)[] }) {
  return (
    <dl className="grid grid-cols-[1fr_auto] gap-x-3 gap-y-1">
      {figures.map(
        (f) =>
          f && (
            <Row key={f.label} name={f.label.toLowerCase()}>
              <FigureButton figure={f} />
            </Row>
          ),
      )}
    </dl>
  );
}
