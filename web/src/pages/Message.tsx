// A page that only says something.
import type { ReactNode } from "react";

export function Message({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <main className="grid min-h-screen place-content-center p-8 text-center">
      <h1 className="text-2xl">{title}</h1>
      {children && <div className="text-soft mt-2 max-w-md">{children}</div>}
    </main>
  );
}
