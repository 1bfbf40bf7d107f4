// What is worth doing next: a few steps from the state of the design, never in the way, hidden and found again.
import { ArrowRight, X } from "lucide-react";
import { create } from "zustand";
import { useNavigate, useParams } from "react-router";
import { useDesign } from "../design/store";
import { IconButton } from "../ui/controls";
import { STEPS } from "../design/steps";

const KEY = "ember.hints";
/** Whether hints are shown, on this machine. */
export const useHints = create<{ shown: boolean; show: (shown: boolean) => void }>((set) => ({
  shown: localStorage.getItem(KEY) !== "hidden",
  show: (shown) => {
    localStorage.setItem(KEY, shown ? "shown" : "hidden");
    set({ shown });
  },
}));

export function Hints() {
  const all = useDesign((s) => s.evaluation?.hints);
  const { shown, show } = useHints();
  const navigate = useNavigate();
  const { variantId, step } = useParams();
  const hints = all?.filter((h) => h.key !== "wrong" || h.step !== step); // its finding stands right below
  if (!hints?.length) return null;
  if (!shown)
    return (
      <button type="button" className="text-soft text-sm underline underline-offset-2" onClick={() => show(true)}>
        What to do next
      </button>
    );
  return (
    <section aria-label="Worth doing next" className="border-line bg-well/40 rounded-card border px-3 py-2">
      <div className="flex items-center justify-between">
        <h2 className="text-base">Worth doing next</h2>
        <IconButton label="Hide what to do next" onClick={() => show(false)}>
          <X size={15} />
        </IconButton>
      </div>
      <ol className="mt-1 space-y-1.5">
        {hints.map((h) => (
          <li key={h.key}>
            <button
              type="button"
              className="group block w-full text-left"
              data-testid={`hint-${h.key}`}
              onClick={() => void navigate(`/gadgets/${variantId}/${h.step}`)}
            >
              <span className="flex items-center gap-1 font-medium underline-offset-2 group-hover:underline">
                {h.title}
                <ArrowRight size={13} aria-hidden />
                <span className="text-soft text-xs font-normal">{STEPS.find((s) => s.key === h.step)?.name}</span>
              </span>
              <span className="text-soft block text-sm">{h.sentence}</span>
            </button>
          </li>
        ))}
      </ol>
    </section>
  );
}
