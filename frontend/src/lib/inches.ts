export const MM_PER_INCH = 25.4;

/** Inches as a ruler gives them, such as `1 3/16`, `3/8` or `0.25`; null where they cannot be read. */
export function inchesOf(typed: string): number | null {
  const parts = typed.trim().split(/\s+/);
  const [first = "", second] = parts;
  if (first === "" || parts.length > 2) return null;
  const one = partOf(first);
  const two = second === undefined ? 0 : second.includes("/") ? partOf(second) : null;
  return one === null || two === null ? null : one + two;
}

function partOf(text: string): number | null {
  const [top = "", bottom, ...more] = text.split("/");
  if (more.length > 0 || top === "") return null;
  const value = bottom === undefined ? Number(top) : Number(top) / Number(bottom === "" ? "x" : bottom);
  return Number.isFinite(value) ? value : null;
}

/** What was typed in inches as millimetres, to a twentieth; nothing where it cannot be read. */
export function mmOfInches(typed: string): string {
  const inches = inchesOf(typed);
  return inches === null ? "" : String(Math.round(20 * inches * MM_PER_INCH) / 20);
}
