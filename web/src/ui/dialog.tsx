// The one dialog.
import { X } from "lucide-react";
import { Dialog as Radix } from "radix-ui";
import type { ReactNode } from "react";
import { IconButton } from "./controls";

export function Dialog({
  title,
  open,
  onOpenChange,
  children,
  wide = false,
}: {
  title: string;
  open: boolean;
  onOpenChange: (open: boolean) => void;
  children: ReactNode;
  wide?: boolean;
}) {
  return (
    <Radix.Root open={open} onOpenChange={onOpenChange}>
      <Radix.Portal>
        <Radix.Overlay className="bg-ink/25 fixed inset-0 z-40 dark:bg-black/50" />
        <Radix.Content
          aria-describedby={undefined}
          className={`rounded-card border-line bg-sheet fixed top-[8vh] left-1/2 z-50 flex max-h-[84vh] w-[calc(100vw-2rem)] -translate-x-1/2 flex-col border shadow-xl ${wide ? "max-w-3xl" : "max-w-lg"}`}
        >
          <div className="border-line flex items-center justify-between gap-4 border-b px-5 py-3">
            <Radix.Title className="text-lg">{title}</Radix.Title>
            <Radix.Close asChild>
              <IconButton label="Close">
                <X size={18} />
              </IconButton>
            </Radix.Close>
          </div>
          <div className="overflow-y-auto p-5">{children}</div>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
