// Charge: what refills it, how fast, and how warm everything gets.
import { useState } from "react";
import { useLocation } from "react-router";
import { StepPage } from "../../shell/StepPage";
import { Views, type View } from "../../ui/views";
import { ChargeView } from "./ChargeView";
import { HeatView } from "./HeatView";

const CHARGE_VIEW = "charge-view";
const VIEWS: View[] = [
  ["charge", "Charging", <ChargeView key="charge" />],
  ["heat", "Heat", <HeatView key="heat" />],
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
      <Views label="Views" views={VIEWS} view={view} choose={choose} />
    </StepPage>
  );
}
