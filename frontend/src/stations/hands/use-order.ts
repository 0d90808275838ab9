import type { Catalogue, CheckSpec, Job } from "../../api/client";
import { useCall } from "../../api/calls";
import { useDraft } from "../../lib/draft";
import { type Access, inOrder } from "./order";

/** Checks of this layout from how the machine now stands, in the order in which they are worth making. */
export function useOrder(job: Job, catalogue: Catalogue | undefined) {
  const call = useCall(job.id, job.call?.weighed);
  const [now, setNow] = useDraft<Access>(`opened-${job.id}`, "lid");
  const { layout } = job.machine;
  const checks = catalogue?.checks.filter((check) => layout == null || check.layouts.includes(layout)) ?? [];
  const groups = inOrder(checks, call.data?.result.next_checks ?? [], now);
  /** The first that was not made yet and can be made as it stands, without these. */
  const best = (...but: readonly string[]): CheckSpec | undefined =>
    groups[0]?.checks.find((check) => !but.includes(check.code) && !job.checks.some((c) => c.check === check.code));
  return { now, setNow, groups, best };
}
