import type { Suspect } from "../../api/client";
import { percent } from "../../lib/format";

/** What a call made again says differently of what it named first; empty where nothing is known yet. */
export function changedWords(then: readonly Suspect[], now: readonly Suspect[] | undefined): string {
  const first = then[0];
  const leads = now?.[0];
  if (!first || !now || !leads) return "";
  const again = now.find((s) => s.fault === first.fault)?.probability ?? 0;
  const moved = `: ${first.short.toLowerCase()} ${percent(first.probability)} then, ${percent(again)} now`;
  return leads.fault === first.fault ? moved : `${moved}; ${leads.short.toLowerCase()} leads`;
}
