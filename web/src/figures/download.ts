/** Film size, with the large type that comes from scaling the figure as a whole. */
const FILM = { width: 1920, height: 1080 };

function save(name: string, blob: Blob): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

/** A standing copy of a figure: variables and fonts resolved, on the ground colour, at film size. */
export function standaloneSvg(svg: SVGSVGElement): string {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  const style = getComputedStyle(document.documentElement);
  const box = svg.viewBox.baseVal;
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("width", String(FILM.width));
  copy.setAttribute("height", String(FILM.height));
  copy.setAttribute("preserveAspectRatio", "xMidYMid meet");
  const ground = document.createElementNS("http://www.w3.org/2000/svg", "rect");
  const margin = Math.max(box.width, box.height);
  for (const [k, v] of Object.entries({ x: -margin, y: -margin, width: box.width + 2 * margin, height: box.height + 2 * margin })) ground.setAttribute(k, String(v));
  ground.setAttribute("fill", "var(--ground)");
  copy.prepend(ground);
  const text = new XMLSerializer().serializeToString(copy);
  return text.replace(/var\((--[a-z-]+)\)/g, (_, name: string) => style.getPropertyValue(name).trim().replaceAll('"', "'"));
}

export function downloadSvg(name: string, text: string): void {
  save(`${name}.svg`, new Blob([text], { type: "image/svg+xml" }));
}

export async function downloadPng(name: string, text: string): Promise<void> {
  const image = new Image();
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
  await image.decode();
  const canvas = document.createElement("canvas");
  canvas.width = FILM.width;
  canvas.height = FILM.height;
  canvas.getContext("2d")?.drawImage(image, 0, 0, FILM.width, FILM.height);
  const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, "image/png"));
  if (blob) save(`${name}.png`, blob);
}

/** Cells that a spreadsheet would take for a formula are made plain text. */
function cell(value: string | number | null): string {
  if (value === null) return "";
  if (typeof value === "number") return String(value);
  const safe = /^[=+\-@\t\r]/.test(value) ? `'${value}` : value;
  return /[",\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
}

export function downloadCsv(name: string, rows: (string | number | null)[][]): void {
  save(`${name}.csv`, new Blob([rows.map((r) => r.map(cell).join(",")).join("\n") + "\n"], { type: "text/csv" }));
}
