// The one dialog: opens on its first field, and gives the focus back to where it came from.
import { X } from "lucide-react";
import { Dialog as Radix } from "radix-ui";
import { useRef, type ReactNode } from "react";
import { IconButton } from "./controls";

const FIELD = "input:not([type=hidden]):not([type=file]), select, textarea";

/** Remembers what had the focus when a dialog opened, and gives it back when it closes. */
export function useFocusReturn() {
  const opener = useRef<Element | null>(null);
  return {
    onOpenAutoFocus: () => {
      opener.current = document.activeElement;
    },
    onCloseAutoFocus: (e: Event) => {
      e.preventDefault();
      giveBack(opener.current);
    },
  };
}

export function Dialog({
  title,
  open,
  onOpenChange,
  children,
  wide = false,
  asks = false,
}: {
  title: string;
  open: boolean;
  onOpenChange: (open: boolean) => void;
  children: ReactNode;
  /** for a form of two columns; for a table */
  wide?: boolean | "table";
  /** wants an answer: it is not closed without one */
  asks?: boolean;
}) {
  const body = useRef<HTMLDivElement>(null);
  const { onOpenAutoFocus, onCloseAutoFocus } = useFocusReturn();
  return (
    <Radix.Root open={open} onOpenChange={onOpenChange}>
      <Radix.Portal>
        <Radix.Overlay className="bg-ink/25 fixed inset-0 z-40 dark:bg-black/50" />
        <Radix.Content
          aria-describedby={undefined}
          onOpenAutoFocus={(e) => {
            onOpenAutoFocus();
            const first =
              body.current?.querySelector<HTMLElement>("[data-first]") ??
              body.current?.querySelector<HTMLElement>(FIELD);
            if (!first) return;
            e.preventDefault();
            first.focus();
          }}
          onCloseAutoFocus={onCloseAutoFocus}
          className={`rounded-card border-line bg-sheet fixed top-[8vh] left-1/2 z-50 flex max-h-[84vh] w-[calc(100vw-2rem)] -translate-x-1/2 flex-col border shadow-xl ${wide === "table" ? "max-w-5xl" : wide ? "max-w-3xl" : "max-w-lg"}`}
        >
          <div className="border-line flex items-center justify-between gap-4 border-b px-5 py-3">
            <Radix.Title className="text-lg">{title}</Radix.Title>
            {!asks && (
              <Radix.Close asChild>
                <IconButton label="Close">
                  <X size={18} />
                </IconButton>
              </Radix.Close>
            )}
          </div>
          <div ref={body} className="overflow-y-auto p-5">
            {children}
          </div>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}

/** The focus to what had it; where that is gone, to the work on the page. What was chosen may have moved it already. */
function giveBack(opener: Element | null): void {
  const now = document.activeElement;
  if (now && now !== document.body && now.isConnected && !now.closest("[role=dialog]")) return;
  const alive = opener instanceof HTMLElement && opener.isConnected && opener !== document.body;
  (alive ? opener : document.querySelector<HTMLElement>("main"))?.focus();
}
