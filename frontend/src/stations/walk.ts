import type { Job } from "../api/client";
import { percent } from "../lib/format";
import type { Tag, TagState } from "../marks/walk-strip";

/** What each station of a job has yielded, in about three words. */
export function walkTags(job: Job, here: string): Tag[] {
  const spins = job.recordings.filter((r) => r.test === "spin");
  const story = job.symptoms.length > 0 || job.note !== "";
  const sure = job.call?.leader_probability ?? null;
  const state = (station: string, done: boolean): TagState => (station === here ? "here" : done ? "done" : "open");
  const counted = (count: number, one: string) => `${String(count)} ${one}${count === 1 ? "" : "s"}`;
  return [
    {
      station: "story",
      name: "Story",
      words: story ? counted(job.symptoms.length, "symptom") : "nothing told",
      state: state("story", story),
    },
    {
      station: "hands",
      name: "Hands",
      words: job.checks.length > 0 ? counted(job.checks.length, "check") : "no checks",
      state: state("hands", job.checks.length > 0),
    },
    {
      station: "spin",
      name: "Spin",
      words: spins.length > 0 ? counted(spins.length, "recording") : "not recorded",
      state: state("spin", spins.length > 0),
    },
    {
      station: "call",
      name: "Call",
      words: job.call && sure !== null ? (ADVICE[job.call.advice ?? ""]?.(percent(sure)) ?? "called") : "no call",
      state: state("call", sure !== null),
    },
    { station: "cost", name: "Cost", words: "on paper", state: "absent" },
    { station: "strip", name: "Strip", words: "on paper", state: "absent" },
    { station: "proof", name: "Proof", words: "on paper", state: "absent" },
  ];
}

const ADVICE: Record<string, (sure: string) => string> = {
  commit: (sure) => `${sure}, open it`,
  check_more: (sure) => `${sure}, check first`,
  no_teardown: (sure) => `${sure}, leave it`,
  record_again: () => "record first",
};
