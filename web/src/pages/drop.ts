// Files that are dropped anywhere on a page.
import { useEffect } from "react";

export const TABLE = /\.(xlsx|xlsm|xlsb|xls|ods|csv|tsv)$/i;
const holdsFiles = (e: DragEvent) => e.dataTransfer?.types.includes("Files") === true;

/** Takes a file unless something nearer has; whoever answers true keeps it. A page is asked before what listens on all of them. The browser never
 * leaves the page for a file. */
export function useDroppedFile(take: (file: File) => boolean, everywhere = false): void {
  useEffect(() => {
    const place: EventTarget = everywhere ? window : document;
    const over = (event: Event) => {
      const e = event as DragEvent;
      if (holdsFiles(e)) e.preventDefault();
    };
    const drop = (event: Event) => {
      const e = event as DragEvent;
      const file = e.dataTransfer?.files[0];
      if (file && !e.defaultPrevented && take(file)) e.preventDefault();
    };
    place.addEventListener("dragover", over);
    place.addEventListener("drop", drop);
    return () => {
      place.removeEventListener("dragover", over);
      place.removeEventListener("drop", drop);
    };
  }, [take, everywhere]);
}
