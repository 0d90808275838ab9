import type { Job } from "../../../api/client";
import { words } from "../../../lib/format";

/** How far the corners that were pushed lie apart, and which settles last; null before two were. */
export function spreadWords(done: Pick<Job, "checks">["checks"]): string | null {
  const pushed = done.flatMap(({ values }) => {
    const { corner, swings } = values;
    return typeof corner === "string" && corner !== "centre" && typeof swings === "number" ? [{ corner, swings }] : [];
  });
  if (pushed.length < 2) return null;
  const sorted = [...pushed].sort((a, b) => a.swings - b.swings);
  const [least, most] = [sorted[0], sorted.at(-1)];
  if (!least || !most) return null;
  if (least.swings === most.swings) return `All ${String(pushed.length)} corners settle alike.`;
  return `The corners differ by ${String(Math.round(10 * (most.swings - least.swings)) / 10)} swings: ${words(most.corner)} settles last.`;
}
