// Light, dark, or as the system has it.
import { create } from "zustand";

export type Theme = "light" | "dark" | "system";
const KEY = "ember.theme";
const dark = window.matchMedia("(prefers-color-scheme: dark)");

function show(theme: Theme): void {
  const effective = theme === "system" ? (dark.matches ? "dark" : "light") : theme;
  document.documentElement.dataset["theme"] = effective;
}

const first = (localStorage.getItem(KEY) as Theme | null) ?? "system";
show(first);

/** Whether the page is dark as it stands. */
export const useDark = (): boolean => useTheme((s) => (s.theme === "system" ? s.systemDark : s.theme === "dark"));

export const useTheme = create<{ theme: Theme; systemDark: boolean; choose: (t: Theme) => void }>((set) => ({
  theme: first,
  systemDark: dark.matches,
  choose: (theme) => {
    localStorage.setItem(KEY, theme);
    show(theme);
    set({ theme });
  },
}));

dark.addEventListener("change", () => {
  show(useTheme.getState().theme);
  useTheme.setState({ systemDark: dark.matches });
});
