// What the browser's tab is called: the place first, as tabs are cut at their end.
import { useEffect } from "react";

export function useTitle(...places: (string | undefined)[]): void {
  const title = [...places.filter(Boolean), "Frugal Ember"].join(" · ");
  useEffect(() => {
    document.title = title;
  }, [title]);
}
