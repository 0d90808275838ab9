import type { Job } from "../api/client";
import type { Tag } from "../marks/line/walk-strip";
import { STATIONS } from "./stations";

/** What each station of a job has yielded, in about three words. */
export function walkTags(job: Job, here: string): Tag[] {
  return STATIONS.map(({ code, name, tag }) => {
    const { words, done } = tag(job);
    const state = code === here ? "here" : done ? "done" : "open";
    return { station: code, name, words, state };
  });
}
