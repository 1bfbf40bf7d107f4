// The page as it is, on paper.
import { Printer } from "lucide-react";
import { Button } from "../../ui/controls";

export const Print = () => (
  <Button className="print:hidden" onClick={() => window.print()}>
    <Printer size={15} aria-hidden /> Print
  </Button>
);
