// A file that is dropped anywhere on a page: a design document is opened, a table of parts goes to the dialog for it.
import { useEffect } from "react";

const TABLE = /\.(xlsx|xlsm|xlsb|xls|ods|csv|tsv)$/i;
const holdsFiles = (e: DragEvent) => e.dataTransfer?.types.includes("Files") === true;

export function useDroppedFiles(onDocument: (file: File) => void, onTable: (file: File) => void): void {
  useEffect(() => {
    const over = (e: DragEvent) => {
      if (holdsFiles(e)) e.preventDefault(); // the browser would leave the page for the file
    };
    const drop = (e: DragEvent) => {
      const file = e.dataTransfer?.files[0];
      if (!file || e.defaultPrevented) return; // something on the page takes files itself
      e.preventDefault();
      if (TABLE.test(file.name)) onTable(file);
      else onDocument(file);
    };
    window.addEventListener("dragover", over);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("dragover", over);
      window.removeEventListener("drop", drop);
    };
  }, [onDocument, onTable]);
}
