import type { Wish } from "../../api/found";
import type { JobShort } from "../../api/client";
import { holdsAll } from "../../lib/looking-for";
import { waitOf } from "./groups";

/** Whether a job that this device knows is one of those: by its place and its call, which is all it knows of it. */
export function matches(job: JobShort, { q, waits_for, layout }: Wish): boolean {
  return (
    (waits_for === null || waitOf(job) === waits_for) &&
    (layout === null || job.layout === layout) &&
    holdsAll(`${job.place} ${job.call?.headline ?? ""}`, q)
  );
}
