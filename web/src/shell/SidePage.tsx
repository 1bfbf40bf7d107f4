// A page beside a gadget's steps, with the way back to its record: a comparison, a bill, a plan.
import type { ReactNode } from "react";
import { Link } from "react-router";
import { TopBar } from "./TopBar";

export function SidePage({
  variant,
  wide = "max-w-6xl",
  children,
}: {
  variant: number;
  /** a class with how wide it gets */
  wide?: string;
  children: ReactNode;
}) {
  return (
    <div className="min-h-screen print:bg-white">
      <div className="print:hidden">
        <TopBar>
          <Link to={`/gadgets/${variant}/record`} className="truncate underline underline-offset-2">
            Back
          </Link>
        </TopBar>
      </div>
      <main id="work" tabIndex={-1} className={`mx-auto px-4 pt-4 pb-10 print:max-w-none print:p-0 ${wide}`}>
        {children}
      </main>
    </div>
  );
}
