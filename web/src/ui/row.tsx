// A figure with its name, in a list of them.
import type { ReactNode } from "react";

export function Row({ name, children }: { name: string; children: ReactNode }) {
  return (
    <>
      <dt className="text-soft">{name}</dt>
      <dd className="text-right">{children}</dd>
    </>
  );
}
