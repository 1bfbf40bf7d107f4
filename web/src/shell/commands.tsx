// One palette of commands, and the list of shortcuts on one key.
import { Command } from "cmdk";
import { useEffect } from "react";
import { useNavigate, useParams } from "react-router";
import { create } from "zustand";
import { actions, openDocument, useDesign } from "../design/store";
import { Dialog } from "../ui/dialog";
import { useTheme } from "../ui/theme";
import { useHints } from "../verdict/Hints";
import { STEPS } from "../design/steps";

type Which = "commands" | "shortcuts" | null;
export const useCommands = create<{ shown: Which; open: (which: Which) => void }>((set) => ({
  shown: null,
  open: (shown) => set({ shown }),
}));

const SHORTCUTS: [string, string][] = [
  ["Ctrl K", "All commands"],
  ["Ctrl Z", "Undo"],
  ["Ctrl Y or Ctrl Shift Z", "Redo"],
  ["Alt 1 … Alt 7", "Go to a step"],
  ["Enter or F2", "In the draw grid: edit the cell; typing edits it too"],
  ["Arrows", "In the draw grid: the next cell; in Fit: move the body by 0.5 mm, with Shift by 0.1 mm"],
  ["Arrows, Shift Arrows", "On a session in the day's strip: five minutes earlier or later, shorter or longer"],
  ["Delete", "In the draw grid: the part draws nothing in this mode; on a session in the strip: not at that time"],
  ["F1", "In a field: what its word means"],
  ["Esc", "Give up an edit, close, end a preview"],
  ["?", "This list"],
];

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  target.matches("input, textarea, select, [contenteditable]") &&
  !("settled" in target.dataset); // a field whose text has been put in has nothing of its own to undo

export function Commands() {
  const { shown, open } = useCommands();
  const navigate = useNavigate();
  const { variantId } = useParams();

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const { undo, redo, preview, endPreview } = openDocument();
      const control = e.ctrlKey || e.metaKey;
      const key = e.key.toLowerCase();
      if (control && key === "k") open("commands");
      else if (control && key === "z" && !typing(e.target)) (e.shiftKey ? redo : undo)();
      else if (control && key === "y" && !typing(e.target)) redo();
      else if (e.altKey && /^[1-7]$/.test(e.key))
        void navigate(`/gadgets/${variantId}/${STEPS[Number(e.key) - 1]?.key}`);
      else if (e.key === "?" && !typing(e.target)) open("shortcuts");
      else if (e.key === "Escape" && preview && !typing(e.target)) return endPreview();
      else return;
      e.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [navigate, variantId, open]);

  const { undo, redo, applyRemedy } = actions;
  const ways = useDesign((s) => s.ways);
  const act = (work: () => void) => () => {
    open(null);
    work();
  };
  const remedies = [...(ways?.values() ?? [])];
  const item = "cursor-pointer rounded-md px-3 py-1.5 data-[selected=true]:bg-well";
  return (
    <>
      <Dialog title="Commands" open={shown === "commands"} onOpenChange={(o) => open(o ? "commands" : null)}>
        <Command label="Commands">
          <Command.Input
            placeholder="What do you want to do?"
            className="border-line bg-paper w-full rounded-md border px-3 py-2"
          />
          <Command.List className="mt-2 max-h-[50vh] overflow-y-auto">
            <Command.Empty className="text-soft px-3 py-2">No command has these letters.</Command.Empty>
            <Command.Group
              heading="Go to"
              className="[&_[cmdk-group-heading]]:text-soft [&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:text-sm"
            >
              {STEPS.map((s) => (
                <Command.Item
                  key={s.key}
                  className={item}
                  onSelect={act(() => navigate(`/gadgets/${variantId}/${s.key}`))}
                >
                  {s.name}
                </Command.Item>
              ))}
              <Command.Item className={item} onSelect={act(() => navigate("/gadgets"))}>
                All gadgets
              </Command.Item>
              <Command.Item className={item} onSelect={act(() => navigate(`/gadgets/${variantId}/report`))}>
                Its report
              </Command.Item>
              <Command.Item className={item} onSelect={act(() => navigate("/words"))}>
                Words explained
              </Command.Item>
              <Command.Item className={item} onSelect={act(() => navigate("/how"))}>
                How it works
              </Command.Item>
            </Command.Group>
            <Command.Group
              heading="Do"
              className="[&_[cmdk-group-heading]]:text-soft [&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:text-sm"
            >
              <Command.Item className={item} onSelect={act(undo)}>
                Undo
              </Command.Item>
              <Command.Item className={item} onSelect={act(redo)}>
                Redo
              </Command.Item>
              <Command.Item
                className={item}
                onSelect={act(() => {
                  const { theme, choose } = useTheme.getState();
                  choose(theme === "dark" ? "light" : "dark");
                })}
              >
                Light or dark colours
              </Command.Item>
              <Command.Item className={item} onSelect={act(() => useHints.getState().show(true))}>
                Show what to do next
              </Command.Item>
              <Command.Item className={item} onSelect={act(() => open("shortcuts"))}>
                Show the shortcuts
              </Command.Item>
            </Command.Group>
            {remedies.length > 0 && (
              <Command.Group
                heading="Apply"
                className="[&_[cmdk-group-heading]]:text-soft [&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:text-sm"
              >
                {remedies.map((r, i) => (
                  <Command.Item
                    key={i}
                    value={`${r.label} ${i}`}
                    className={item}
                    onSelect={act(() => applyRemedy(r.label, r.patch))}
                  >
                    {r.label}
                  </Command.Item>
                ))}
              </Command.Group>
            )}
          </Command.List>
        </Command>
      </Dialog>
      <Dialog title="Shortcuts" open={shown === "shortcuts"} onOpenChange={(o) => open(o ? "shortcuts" : null)}>
        <dl className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-2">
          {SHORTCUTS.map(([keys, what]) => (
            <div key={keys} className="contents">
              <dt className="font-medium whitespace-nowrap">{keys}</dt>
              <dd className="text-soft">{what}</dd>
            </div>
          ))}
        </dl>
      </Dialog>
    </>
  );
}
