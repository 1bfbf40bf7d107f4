// A figure that explains itself: press it and the drawer shows formula, inputs, range and source.
import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import { create } from "zustand";
import type { Figure } from "../types";
import { IconButton } from "../../ui/controls";
import { useFocusReturn } from "../../ui/dialog";
import { parts, range, show } from "../../ui/format";

const useDrawer = create<{ figure: Figure | null; open: (f: Figure | null) => void }>((set) => ({
  figure: null,
  open: (figure) => set({ figure }),
}));

export function Value({ value, unit }: { value: number | null | undefined; unit: string }) {
  const [digits, name] = parts(value, unit);
  return (
    <>
      {digits}
      {name && <span className="text-[0.8em]">{`\u00a0${name}`}</span>}
    </>
  );
}

export function FigureButton({
  figure,
  className = "",
  withRange = false,
}: {
  figure: Figure;
  className?: string;
  withRange?: boolean;
}) {
  const open = useDrawer((s) => s.open);
  return (
    <button
      type="button"
      onClick={() => open(figure)}
      aria-label={`${figure.label}: ${show(figure.value, figure.unit)}. Show its working`}
      className={`decoration-line hover:decoration-ink inline-block min-h-6 min-w-6 rounded-sm underline decoration-dotted underline-offset-[0.25em] hover:decoration-solid ${className}`}
    >
      <Value value={figure.value} unit={figure.unit} />
      {withRange && figure.low !== null && (
        <span className="text-soft ml-1.5 text-[0.8em]">{range(figure.low, figure.high, figure.unit)}</span>
      )}
    </button>
  );
}

export function WorkingDrawer() {
  const { figure, open } = useDrawer();
  const focus = useFocusReturn();
  return (
    <Dialog.Root open={figure !== null} onOpenChange={(o) => !o && open(null)}>
      <Dialog.Portal>
        <Dialog.Overlay className="bg-ink/25 fixed inset-0 z-40 dark:bg-black/50" />
        <Dialog.Content
          aria-describedby={undefined}
          {...focus}
          className="border-line bg-sheet fixed inset-y-0 right-0 z-50 w-full max-w-md overflow-y-auto border-l p-6 shadow-xl"
        >
          {figure && (
            <>
              <div className="flex items-start justify-between gap-3">
                <Dialog.Title className="text-xl leading-snug">{figure.label}</Dialog.Title>
                <Dialog.Close asChild>
                  <IconButton label="Close the working">
                    <X size={18} />
                  </IconButton>
                </Dialog.Close>
              </div>
              <p className="font-display mt-2 text-4xl">
                <Value value={figure.value} unit={figure.unit} />
              </p>
              {range(figure.low, figure.high, figure.unit) && (
                <p className="text-soft mt-1">expected: {range(figure.low, figure.high, figure.unit)}</p>
              )}
              <h3 className="mt-6 text-base">How it comes about</h3>
              <p className="bg-well mt-1 rounded-md px-3 py-2 leading-relaxed">{figure.working.formula}</p>
              {figure.working.words && <p className="text-soft mt-2">{figure.working.words}</p>}
              {figure.working.inputs.length > 0 && (
                <>
                  <h3 className="mt-5 text-base">From</h3>
                  <table className="mt-1 w-full text-[0.9375rem]">
                    <tbody>
                      {figure.working.inputs.map((input) => (
                        <tr key={input.name} className="border-line/70 border-b align-top">
                          <th scope="row" className="text-soft py-1.5 pr-3 text-left font-normal">
                            {input.name}
                            {input.origin && <span className="block text-xs">{input.origin}</span>}
                          </th>
                          <td className="py-1.5 text-right whitespace-nowrap">
                            {input.value === null ? "" : show(input.value, input.unit)}
                          </td>
                        </tr>
                      ))}
                    </tbody>
                  </table>
                </>
              )}
              {figure.working.source && (
                <>
                  <h3 className="mt-5 text-base">Source</h3>
                  <p className="text-soft mt-1">{figure.working.source}</p>
                </>
              )}
              {figure.working.note && <p className="text-soft mt-3">{figure.working.note}</p>}
              <p className="text-soft mt-8 text-xs">An estimate for design.</p>
            </>
          )}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
