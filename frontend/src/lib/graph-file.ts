/** A graph as it stands on the screen, as a drawing or a picture; and the numbers behind it, as a table. */

export type Cell = string | number | null;
export interface Table {
  head: readonly string[];
  rows: readonly (readonly Cell[])[];
}

const SVG = "http://www.w3.org/2000/svg";
const PICTURE_SCALE = 2;
const MARGIN = 12;
// What a drawing needs of the page's style once it stands alone.
const DRAWN = [
  "fill",
  "fill-opacity",
  "stroke",
  "stroke-width",
  "stroke-dasharray",
  "stroke-linecap",
  "stroke-linejoin",
  "stroke-opacity",
  "opacity",
  "font-family",
  "font-size",
  "font-weight",
  "text-anchor",
  "dominant-baseline",
] as const;
const NOTHING = /^(rgba\(0, 0, 0, 0\)|transparent)$/;

/** Numbers as RFC 4180 has them: commas, quotes where needed, one line a row. */
export function csvOf({ head, rows }: Table): string {
  return [head, ...rows].map((row) => row.map(cell).join(",")).join("\r\n") + "\r\n";
}

function cell(value: Cell): string {
  const text = value === null ? "" : String(value);
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

/**
 * Everything drawn below `root` as one drawing that stands alone: its own drawings, canvases as pictures, boxes, and
 * text word by word where the page has it. What is marked `data-not-drawn` is left out.
 */
export function svgOf(root: HTMLElement, fonts: string): string {
  const frame = root.getBoundingClientRect();
  const out = document.createElementNS(SVG, "svg");
  out.setAttribute("xmlns", SVG);
  const [width, height] = [frame.width + 2 * MARGIN, frame.height + 2 * MARGIN];
  out.setAttribute("viewBox", [-MARGIN, -MARGIN, width, height].join(" "));
  out.setAttribute("width", String(width));
  out.setAttribute("height", String(height));
  const style = document.createElementNS(SVG, "style");
  style.textContent = fonts;
  const ground = new DOMRect(frame.left - MARGIN, frame.top - MARGIN, width, height);
  out.append(style, box(ground, frame, { fill: paper(root) }));
  walk(root, out, frame);
  return new XMLSerializer().serializeToString(out);
}

function walk(node: Element, out: SVGElement, frame: DOMRect): void {
  for (const child of node.childNodes) {
    if (child instanceof Text) words(child, out, frame);
    if (!(child instanceof Element) || child.matches("[data-not-drawn], .sr-only, audio")) continue;
    const style = getComputedStyle(child);
    if (style.display === "none" || style.visibility === "hidden") continue;
    const rect = child.getBoundingClientRect();
    if (child instanceof SVGSVGElement) out.append(standing(child, rect, frame));
    else if (child instanceof HTMLCanvasElement) out.append(picture(child, rect, frame));
    else {
      if (!NOTHING.test(style.backgroundColor)) out.append(box(rect, frame, { fill: style.backgroundColor }));
      const line = parseFloat(style.borderTopWidth);
      if (line > 0) out.append(box(rect, frame, { fill: "none", stroke: style.borderTopColor, width: line }));
      walk(child, out, frame);
    }
  }
}

/** A drawing of the page with its style written into it, where it stands. */
function standing(drawing: SVGSVGElement, rect: DOMRect, frame: DOMRect): SVGSVGElement {
  const copy = drawing.cloneNode(true) as SVGSVGElement;
  const inside = copy.querySelectorAll("*");
  drawing.querySelectorAll("*").forEach((original, k) => {
    const style = getComputedStyle(original);
    for (const name of DRAWN) inside[k]?.setAttribute(name, style.getPropertyValue(name));
    inside[k]?.removeAttribute("class");
  });
  copy.removeAttribute("class");
  for (const [name, value] of place(rect, frame)) copy.setAttribute(name, value);
  return copy;
}

function picture(canvas: HTMLCanvasElement, rect: DOMRect, frame: DOMRect): SVGElement {
  const image = document.createElementNS(SVG, "image");
  image.setAttribute("href", canvas.toDataURL());
  for (const [name, value] of place(rect, frame)) image.setAttribute(name, value);
  return image;
}

function box(rect: DOMRect, frame: DOMRect, look: { fill: string; stroke?: string; width?: number }): SVGElement {
  const made = document.createElementNS(SVG, "rect");
  for (const [name, value] of place(rect, frame)) made.setAttribute(name, value);
  made.setAttribute("fill", look.fill);
  if (look.stroke) {
    made.setAttribute("stroke", look.stroke);
    made.setAttribute("stroke-width", String(look.width ?? 1));
  }
  return made;
}

function place(rect: DOMRect, frame: DOMRect): [string, string][] {
  const at = { x: rect.left - frame.left, y: rect.top - frame.top, width: rect.width, height: rect.height };
  return Object.entries(at).map(([name, value]) => [name, value.toFixed(1)]);
}

/** Text of the page, broken into lines as the page breaks it. */
function words(text: Text, out: SVGElement, frame: DOMRect): void {
  const parent = text.parentElement;
  if (!parent || text.data.trim() === "") return;
  const style = getComputedStyle(parent);
  const lines: { top: number; bottom: number; left: number; says: string }[] = [];
  for (const match of text.data.matchAll(/\S+/g)) {
    const range = document.createRange();
    range.setStart(text, match.index);
    range.setEnd(text, match.index + match[0].length);
    const rect = range.getBoundingClientRect();
    if (rect.width === 0) continue;
    const line = lines.at(-1);
    if (line && Math.abs(line.top - rect.top) < 2) line.says += ` ${match[0]}`;
    else lines.push({ top: rect.top, bottom: rect.bottom, left: rect.left, says: match[0] });
  }
  for (const line of lines) {
    const made = document.createElementNS(SVG, "text");
    made.setAttribute("x", (line.left - frame.left).toFixed(1));
    made.setAttribute("y", ((line.top + line.bottom) / 2 - frame.top).toFixed(1));
    made.setAttribute("dominant-baseline", "central");
    made.setAttribute("fill", style.color);
    for (const name of ["font-family", "font-size", "font-weight"]) {
      made.setAttribute(name, style.getPropertyValue(name));
    }
    made.textContent = line.says;
    out.append(made);
  }
}

/** What the graph lies on: the nearest ground that is not see-through. */
function paper(element: Element | null): string {
  for (let at = element; at; at = at.parentElement) {
    const { backgroundColor } = getComputedStyle(at);
    if (!NOTHING.test(backgroundColor)) return backgroundColor;
  }
  return "white";
}

/** The page's own fonts as they ship, written out, so that a drawing looks alike where they are not installed. */
export async function shippedFonts(): Promise<string> {
  const faces = [...document.styleSheets]
    .flatMap((sheet) => [...sheet.cssRules])
    .filter((rule) => rule instanceof CSSFontFaceRule);
  const written = await Promise.all(
    faces.map(async (face) => {
      const url = /url\("?([^")]+)"?\)/.exec(face.cssText)?.[1];
      if (url === undefined || url.startsWith("data:")) return face.cssText;
      const answer = await fetch(new URL(url, document.baseURI));
      return face.cssText.replace(url, await dataUrl(await answer.blob()));
    }),
  );
  return written.join("\n");
}

function dataUrl(blob: Blob): Promise<string> {
  return new Promise((resolve, reject) => {
    const reader = new FileReader();
    reader.onload = () => {
      resolve(String(reader.result));
    };
    reader.onerror = () => {
      reject(new Error("The fonts could not be read."));
    };
    reader.readAsDataURL(blob);
  });
}

/** The same drawing as a picture, twice as fine as the screen's. */
export async function pngOf(svg: string): Promise<Blob> {
  const image = new Image();
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`;
  await image.decode();
  const canvas = document.createElement("canvas");
  canvas.width = Math.ceil(image.width * PICTURE_SCALE);
  canvas.height = Math.ceil(image.height * PICTURE_SCALE);
  canvas.getContext("2d")?.drawImage(image, 0, 0, canvas.width, canvas.height);
  return new Promise((resolve, reject) => {
    canvas.toBlob((blob) => {
      if (blob) resolve(blob);
      else reject(new Error("This browser could not make a picture of it."));
    }, "image/png");
  });
}
