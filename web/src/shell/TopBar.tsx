// The upper edge: where you are, whether it is saved, undo and redo, and the way to everything else.
import { Command, LogOut, Moon, Redo2, Sun, Undo2, UserRound } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useState, type ReactNode } from "react";
import { Link, useNavigate } from "react-router";
import { useSession, useSessionChange } from "../api/queries";
import { actions, useDesign } from "../design/store";
import { PasswordDialog } from "./PasswordDialog";
import { IconButton } from "../ui/controls";
import { useDark, useTheme } from "../ui/theme";
import { useCommands } from "./commands";
import { Mark } from "./Mark";

export function TopBar({ children }: { children?: ReactNode }) {
  const choose = useTheme((s) => s.choose);
  const isDark = useDark();
  return (
    <header className="flex min-h-[52px] flex-wrap items-center gap-x-2 gap-y-1 px-3 py-1.5 sm:gap-x-4 sm:px-4">
      <a
        href="#work"
        className="bg-ink text-paper sr-only rounded-md px-3 py-1.5 focus:not-sr-only focus:absolute focus:z-50"
        onClick={(e) => {
          e.preventDefault(); // the address stays as it is
          document.getElementById("work")?.focus();
        }}
      >
        Skip to the work
      </a>
      <Link to="/gadgets" className="flex items-center gap-2" aria-label="Frugal Ember, all gadgets">
        <Mark />
        <span
          className={`font-display text-lg leading-none font-semibold whitespace-nowrap ${children ? "hidden sm:inline" : ""}`}
        >
          Frugal Ember
        </span>
      </Link>
      {children}
      <div className="ml-auto flex items-center gap-0.5">
        <IconButton label={isDark ? "Light colours" : "Dark colours"} onClick={() => choose(isDark ? "light" : "dark")}>
          {isDark ? <Sun size={17} /> : <Moon size={17} />}
        </IconButton>
        <AccountMenu />
      </div>
    </header>
  );
}

function AccountMenu() {
  const session = useSession();
  const change = useSessionChange();
  const navigate = useNavigate();
  const [password, setPassword] = useState(false);
  const item = "flex cursor-pointer items-center gap-2 rounded-md px-3 py-1.5 outline-none data-highlighted:bg-well";
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger asChild>
          <IconButton label={`Account: ${session.data?.user ?? ""}`}>
            <UserRound size={17} />
          </IconButton>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="end"
            className="rounded-card border-line bg-sheet z-50 min-w-52 border p-1.5 shadow-lg"
          >
            <DropdownMenu.Label className="text-soft px-3 py-1 text-sm">
              Signed in as {session.data?.user}
            </DropdownMenu.Label>
            <DropdownMenu.Item className={item} onSelect={() => void navigate("/words")}>
              Words explained
            </DropdownMenu.Item>
            <DropdownMenu.Item className={item} onSelect={() => void navigate("/how")}>
              How it works
            </DropdownMenu.Item>
            <DropdownMenu.Item className={item} onSelect={() => setPassword(true)}>
              Change the password
            </DropdownMenu.Item>
            <DropdownMenu.Item
              className={item}
              onSelect={() => change.mutate({ do: "out" }, { onSuccess: () => navigate("/") })}
            >
              <LogOut size={15} aria-hidden /> Sign out
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <PasswordDialog open={password} onOpenChange={setPassword} />
    </>
  );
}

const SAVE_WORDS = {
  saved: "saved",
  unsaved: "not saved yet",
  saving: "saving",
  reading: "only looking: what you change is not kept",
  blocked: "not saved: mend the problem below",
  offline: "no connection: kept in this browser, trying again",
  "signed-out": "signed out: kept in this browser; sign in again in another window",
  stale: "changed elsewhere",
} as const;

/** Undo, redo, save state and commands of the open document. */
export function DocumentTools() {
  const save = useDesign((s) => s.save.is);
  const said = useDesign((s) => (s.save.is === "offline" ? s.save.said : undefined));
  const past = useDesign((s) => s.history.past.at(-1));
  const future = useDesign((s) => s.history.future.at(-1));
  const { undo, redo } = actions;
  const openCommands = useCommands((s) => s.open);
  return (
    <div className="flex items-center gap-0.5 print:hidden">
      <IconButton label={past ? `Undo: ${past.label}` : "Nothing to undo"} disabled={!past} onClick={undo}>
        <Undo2 size={17} />
      </IconButton>
      <IconButton label={future ? `Redo: ${future.label}` : "Nothing to redo"} disabled={!future} onClick={redo}>
        <Redo2 size={17} />
      </IconButton>
      <IconButton label="Commands (Ctrl K)" onClick={() => openCommands("commands")}>
        <Command size={16} />
      </IconButton>
      <span
        role="status"
        data-testid="save-state"
        data-save={save}
        title={said}
        className={`ml-1 text-sm ${!["saved", "unsaved", "saving", "reading"].includes(save) ? "text-fail font-semibold" : "text-soft"}`}
      >
        {said ? "the server can't just now: kept in this browser, trying again" : SAVE_WORDS[save]}
      </span>
    </div>
  );
}
