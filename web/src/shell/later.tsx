// What is read when it is needed, and beforehand when there is time: a step then opens at once, without a connection too.
import { Component, lazy, Suspense, useEffect, type ComponentType, type ReactNode } from "react";
import { Button } from "../ui/controls";

export type Later<Props = object> = { View: ComponentType<Props>; read: () => Promise<unknown> };

export function later<Props extends object>(read: () => Promise<ComponentType<Props>>): Later<Props> {
  const View = lazy(async () => ({ default: await read() }));
  return { View: (props) => <View {...props} />, read };
}

/** Reads the others while nothing else is going on. A browser does not ask again for what
 * it could not read: that needs a reload. */
export function useReadAhead(others: Later[], when: boolean) {
  useEffect(() => {
    if (!when) return undefined;
    const timer = setTimeout(() => {
      for (const one of others) one.read().catch(() => undefined);
    }, 300);
    return () => clearTimeout(timer);
  }, [others, when]);
}

/** Shows a page that may still have to be read. */
export function Reading({ children, meanwhile }: { children: ReactNode; meanwhile: ReactNode }) {
  return (
    <Unread>
      <Suspense fallback={meanwhile}>{children}</Suspense>
    </Unread>
  );
}

class Unread extends Component<{ children: ReactNode }, { failed: boolean }> {
  state = { failed: false };

  static getDerivedStateFromError(error: unknown) {
    // anything else is a mistake of ours, and belongs to the console
    if (!(error instanceof TypeError && /import|fetch/i.test(error.message))) throw error;
    return { failed: true };
  }

  render() {
    if (!this.state.failed) return this.props.children;
    return (
      <main className="grid grow place-content-center justify-items-center gap-3 p-8 text-center">
        <h1 className="text-2xl">This page could not be read</h1>
        <p className="text-soft max-w-md">
          The server does not answer, or was renewed meanwhile. The other steps are there as before, and what you typed
          is kept: reload when the server is back.
        </p>
        <Button kind="strong" onClick={() => window.location.reload()}>
          Reload
        </Button>
      </main>
    );
  }
}
