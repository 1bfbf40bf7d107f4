// Saving what is on the screen: the data of a picture as CSV, the picture as SVG.
export function saveText(content: string, type: string, name: string): void {
  saveBlob(new Blob([content], { type }), name);
}

export function saveBlob(content: Blob, name: string): void {
  const url = URL.createObjectURL(content);
  const link = document.createElement("a");
  link.href = url;
  link.download = name;
  link.click();
  URL.revokeObjectURL(url);
}

export type Table = { head: string[]; rows: (string | number | null)[][] };

export function saveCsv(table: Table, name: string): void {
  const cell = (v: string | number | null) => {
    // a text that a spreadsheet would take for a formula is disarmed as the core does it
    const text = typeof v === "string" ? v.replace(/^(?=[=+\-@\t\r'])/, "'") : v === null ? "" : String(v);
    return /[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
  };
  saveText([table.head, ...table.rows].map((r) => r.map(cell).join(",")).join("\n"), "text/csv", `${name}.csv`);
}

export function saveSvg(svg: SVGSVGElement, name: string): void {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  const style = getComputedStyle(document.documentElement);
  const text = new XMLSerializer()
    .serializeToString(copy)
    .replaceAll(/var\((--[a-z-]+)\)/g, (_, name: string) => style.getPropertyValue(name).trim());
  saveText(text, "image/svg+xml", `${name}.svg`);
}
