import type { RecordData } from "../../api/client";

type Part = RecordData["right"];

/** Fewer than so many say little, and it is said. */
const FEW = 5;

/** A share with the room that so few jobs leave it. */
export function partWords(part: Part): string {
  if (part.of === 0 || part.share === null) return "none yet";
  const counted = `${String(part.hits)} of ${String(part.of)}`;
  const range = `between ${whole(part.low)} and ${whole(part.high)} %`;
  return part.of < FEW ? `${counted}: too few to say` : `${counted}, ${whole(part.share)} %, ${range}`;
}

function whole(share: number): string {
  return (100 * share).toFixed(0);
}

/** The record in a sentence. */
export function recordTitle({ right }: RecordData): string {
  if (right.of === 0) return "No call was held against the truth yet";
  if (right.of < FEW) return `${String(right.hits)} of the first ${String(right.of)} calls were right`;
  return `${String(right.hits)} of ${String(right.of)} calls named what it was`;
}

/** What else is counted of one layout, or of one person. */
export function ofWords({ in_vain, again, minutes }: RecordData["by_layout"][number]): string {
  return [
    in_vain.of > 0 ? `opened in vain ${String(in_vain.hits)} of ${String(in_vain.of)}` : null,
    again.of > 0 ? `came back ${String(again.hits)} of ${String(again.of)}` : null,
    minutes === null ? null : `${minutes.toFixed(0)} min to the call`,
  ]
    .filter((part) => part !== null)
    .join(", ");
}
