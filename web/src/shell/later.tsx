// What is read when it is needed, and beforehand when there is time: a step then opens at once, without a connection too.
import { Component, lazy, Suspense, useEffect, type ComponentType, type ReactNode } from "react";

export type Later<Props = object> = { View: ComponentType<Props>; read: () => Promise<unknown> };

export function later<Props extends object>(read: () => Promise<ComponentType<Props>>): Later<Props> {
  const View = lazy(async () => ({ default: await read() }));
  return { View: (props) => <View {...props} />, read };
}

/** Reads the others while nothing else is going on. What fails here is tried again when it is needed. */
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
      <main className="grid place-content-center p-8 text-center">
        <h1 className="text-2xl">This page could not be read</h1>
        <p className="text-soft mt-2 max-w-md">
          The server does not answer, or was renewed meanwhile. What you typed is kept; reload this page when it is
          back.
        </p>
      </main>
    );
  }
}
