/** Film size, with the large type that comes from scaling the figure as a whole. */
const FILM = { width: 1920, height: 1080 };

function save(name: string, blob: Blob): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

/** What a figure or table is about, beside its title: the study it belongs to, the spool, the purpose. */
export interface About {
  kind: "study" | "spool" | "material" | "purpose";
  name: string;
}

/** A standing copy of a figure: variables and fonts resolved, on the ground colour. */
export function standaloneSvg(svg: SVGSVGElement): string {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  // React keeps the width of the page in the style: here the figure fills what it is given
  copy.removeAttribute("style");
  return resolved(new XMLSerializer().serializeToString(copy));
}

function resolved(text: string): string {
  const style = getComputedStyle(document.documentElement);
  return text.replace(/var\((--[a-z-]+)\)/g, (_, name: string) => style.getPropertyValue(name).trim().replaceAll('"', "'"));
}

/** A figure at film size under its title and what it is about; the text of a whole SVG file. */
export function headed(svg: string, title: string, about: string, doubts: readonly string[] = []): string {
  const figure = new DOMParser().parseFromString(svg, "image/svg+xml").documentElement;
  if (figure.tagName !== "svg") throw new Error("the figure could not be drawn");
  const head = doubts.length ? 152 : 118;
  const box = figure.getAttribute("viewBox") ?? `0 0 ${String(FILM.width)} ${String(FILM.height)}`;
  for (const [k, v] of Object.entries({ x: 0, y: head, width: FILM.width, height: FILM.height - head, viewBox: box, preserveAspectRatio: "xMidYMid meet" })) figure.setAttribute(k, String(v));
  const words = (text: string) => text.replaceAll("&", "&amp;").replaceAll("<", "&lt;");
  const line = (y: number, size: number, weight: number, colour: string, text: string) => `<text x="40" y="${String(y)}" font-size="${String(size)}" font-weight="${String(weight)}" font-family="var(--sans)" fill="var(${colour})">${words(text)}</text>`;
  return resolved(
    `<svg xmlns="http://www.w3.org/2000/svg" width="${String(FILM.width)}" height="${String(FILM.height)}" viewBox="0 0 ${String(FILM.width)} ${String(FILM.height)}"><title>${words(`${title}, ${about}`)}</title>` +
      `<rect width="100%" height="100%" fill="var(--ground)"/>${line(56, 36, 650, "--ink", title)}${line(96, 26, 400, "--soft", about)}${doubts.length ? line(134, 24, 600, "--caution", `In doubt: ${shortened(doubts)}`) : ""}${new XMLSerializer().serializeToString(figure)}</svg>`,
  );
}

/** As many of the texts as fit on a line, and how many more there are. */
function shortened(texts: readonly string[]): string {
  const fits = texts.filter((_, i) => texts.slice(0, i + 1).join("; ").length < 130);
  const shown = fits.length ? fits : [`${texts[0]?.slice(0, 125) ?? ""} …`];
  return [...shown, ...(texts.length > shown.length ? [`and ${String(texts.length - shown.length)} more`] : [])].join("; ");
}

/** A name for a file: words with hyphens, what it is about first. */
export const fileName = (about: About | null, name: string): string =>
  [about?.name ?? "", name]
    .filter(Boolean)
    .join(" ")
    .normalize("NFKD")
    .replace(/[^\p{L}\p{N}]+/gu, "-")
    .replace(/^-+|-+$/g, "")
    .toLowerCase();

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
export type Cell = string | number | null;

function cell(value: Cell): string {
  if (value === null) return "";
  if (typeof value === "number") return String(value);
  const safe = /^[=+\-@\t\r]/.test(value) ? `'${value}` : value;
  return /[",\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
}

/** The lines of a table; what it is about stands in a first column, so that tables can be put one under another. */
export function csvOf(rows: Cell[][], about: About | null): string {
  const whole = about ? rows.map((row, i) => [i ? about.name : about.kind, ...row]) : rows;
  return whole.map((r) => r.map(cell).join(",")).join("\n") + "\n";
}

export function downloadCsv(name: string, rows: Cell[][], about: About | null = null): void {
  save(`${fileName(about, name)}.csv`, new Blob([csvOf(rows, about)], { type: "text/csv" }));
}
