import type { JobShort } from "../../api/client";
import { isBusy } from "../../api/queries";

export interface Group {
  name: string;
  jobs: readonly JobShort[];
  /** A line each, instead of a card. */
  rows: boolean;
  /** So many are shown at first, the others when asked for; null shows all. */
  first: number | null;
}

const CLOSED_AT_FIRST = 5;

/** Whether somebody has to do something before the machine can be judged, or before it is safe. */
export function wantsAHand(job: JobShort): boolean {
  if (job.bridged) return true;
  if (job.closed !== null) return false;
  return job.call === null || job.call.advice === "check_more" || job.call.advice === "record_again";
}

/** What wants a hand first and large; what has its call and what is closed below it, a line each. */
export function groups(jobs: readonly JobShort[], now: Date): Group[] {
  const open = jobs.filter((job) => wantsAHand(job) || isBusy(job.measuring));
  const called = jobs.filter((job) => !open.includes(job) && job.closed === null);
  const closed = jobs
    .filter((job) => !open.includes(job) && job.closed !== null)
    .sort((a, b) => b.created_at.localeCompare(a.created_at));
  const today = (job: JobShort) => new Date(job.changed_at).toDateString() === now.toDateString();
  const sorted = [...open].sort((a, b) => Number(b.bridged) - Number(a.bridged) || Number(today(b)) - Number(today(a)));
  return [
    { name: "Wants a hand", jobs: sorted, rows: false, first: null },
    { name: "Has its call", jobs: called, rows: true, first: null },
    { name: "Closed", jobs: closed, rows: true, first: CLOSED_AT_FIRST },
  ].filter((group) => group.jobs.length > 0);
}
