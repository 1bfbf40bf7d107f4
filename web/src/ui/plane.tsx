// Where a plane cuts: a slider from one end to the other, told in millimetres.
import { show } from "./format";

export function Plane({ at, size, move }: { at: number; size: number; move: (share: number) => void }) {
  return (
    <label className="text-soft flex items-center gap-2 text-sm">
      <span className="sr-only">Where it is cut</span>
      <input
        type="range"
        min={0}
        max={1}
        step={0.005}
        value={at}
        aria-valuetext={show(at * size, "mm")}
        onChange={(e) => move(Number(e.target.value))}
      />
      at {show(at * size, "mm")}
    </label>
  );
}
