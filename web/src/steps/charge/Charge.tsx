// Charge: what refills it, how fast, and how warm everything gets.
import { Tabs } from "radix-ui";
import { useState, type ReactNode } from "react";
import { useLocation } from "react-router";
import { StepPage } from "../../shell/StepPage";
import { ChargeView } from "./ChargeView";
import { HeatView } from "./HeatView";

const CHARGE_VIEW = "charge-view";
const VIEWS: [string, string, () => ReactNode][] = [
  ["charge", "Charging", ChargeView],
  ["heat", "Heat", HeatView],
];

export function Charge() {
  const { state, key } = useLocation() as { state: { view?: string } | null; key: string };
  const [view, setView] = useState(() => sessionStorage.getItem(CHARGE_VIEW) ?? "charge");
  const [seen, setSeen] = useState("");
  if (key !== seen) {
    // the verdict of the heat leads to its view
    setSeen(key);
    if (VIEWS.some(([name]) => name === state?.view)) setView(state!.view!);
  }
  const choose = (next: string) => {
    sessionStorage.setItem(CHARGE_VIEW, next);
    setView(next);
  };
  return (
    <StepPage step="charge">
      <Tabs.Root value={view} onValueChange={choose}>
        <Tabs.List aria-label="Views" className="mb-3 flex flex-wrap gap-x-5 gap-y-1 px-1">
          {VIEWS.map(([key, name]) => (
            <Tabs.Trigger
              key={key}
              value={key}
              className="text-soft hover:text-ink data-[state=active]:border-ink data-[state=active]:text-ink min-h-9 border-b-2 border-transparent text-[0.9375rem] font-medium"
            >
              {name}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        {VIEWS.map(([key, , View]) => (
          <Tabs.Content key={key} value={key}>
            <View />
          </Tabs.Content>
        ))}
      </Tabs.Root>
    </StepPage>
  );
}
