import type { JobShort } from "../../api/client";
import { isBusy } from "../../api/jobs";

export type Wait = JobShort["waits_for"];

export interface Group {
  /** What the server knows them by; null for what only shows here and now. */
  wait: Wait | null;
  name: string;
  jobs: readonly JobShort[];
  /** A line each, instead of a card. */
  rows: boolean;
  /** So many are shown at first, the others when asked for; null shows all. */
  first: number | null;
}

const FEW = 5;
/** What jobs wait for, in the order in which it wants somebody. */
export const WAITS: readonly { wait: Wait; name: string; short: string }[] = [
  { wait: "restoring", name: "Make safe first", short: "make safe" },
  { wait: "evidence", name: "Wants a check", short: "check" },
  { wait: "decision", name: "To be decided", short: "decide" },
  { wait: "customer", name: "Waits for the customer", short: "customer" },
  { wait: "bench", name: "Hands inside", short: "hands inside" },
  { wait: "proof", name: "To be proved", short: "prove" },
  { wait: "follow_up", name: "Come back to it", short: "come back" },
  { wait: "nothing", name: "Ended", short: "ended" },
];

/** What a job waits for as it stands here: what was bridged or rings on this device counts before the server knows. */
export function waitOf(job: JobShort): Wait {
  return job.bridged ? "restoring" : job.waits_for;
}

/** Whether somebody has to do something before the machine can be judged, or before it is safe. */
export function wantsAHand(job: JobShort): boolean {
  return ["restoring", "evidence"].includes(waitOf(job));
}

/** Jobs by what they wait for; a wait that runs or rings, and a part that is still to come, stand by themselves. */
export function groups(jobs: readonly JobShort[], today: string): Group[] {
  const real = jobs.filter((j) => !j.practice);
  const rings = (job: JobShort) => job.rings_at !== null && job.closed === null && !job.bridged;
  const part = (job: JobShort) => waitOf(job) === "bench" && job.part_on !== null && job.part_on > today;
  const busy = (job: JobShort) => isBusy(job.measuring) && job.closed === null;
  const at = (wait: Wait) =>
    real.filter(
      (j) => !rings(j) && !part(j) && (wait === "evidence" && busy(j) ? true : waitOf(j) === wait && !busy(j)),
    );
  const group = (wait: Wait, more: Partial<Group> = {}): Group => {
    const name = WAITS.find((w) => w.wait === wait)?.name ?? wait;
    return { wait, name, jobs: at(wait), rows: true, first: null, ...more };
  };
  const byDue = (a: JobShort, b: JobShort) => (a.due_on ?? "").localeCompare(b.due_on ?? "");
  const newest = (a: JobShort, b: JobShort) => b.created_at.localeCompare(a.created_at);
  return [
    group("restoring", { rows: false }),
    { wait: null, name: "A wait runs", jobs: real.filter(rings), rows: false, first: null },
    group("evidence", { rows: false }),
    group("decision"),
    group("customer"),
    { wait: null, name: "Waits for a part", jobs: real.filter((j) => part(j) && !rings(j)), rows: true, first: null },
    group("bench"),
    group("proof"),
    group("follow_up", { jobs: at("follow_up").sort(byDue), first: FEW }),
    group("nothing", { jobs: at("nothing").sort(newest), first: FEW }),
    { wait: null, name: "Practice", jobs: jobs.filter((j) => j.practice), rows: true, first: FEW },
  ].filter((g) => g.jobs.length > 0);
}
