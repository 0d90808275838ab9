import type { Job } from "../../api/client";

/** The option that was answered to, as the paths that it holds; none where nobody answered. */
export function answeredPaths(job: Job): readonly string[] {
  const last = job.cost.offered.at(-1)?.["options"];
  const index = job.cost.decided?.["option"];
  if (!Array.isArray(last) || typeof index !== "number") return [];
  const option = last[index] as { path?: string[] } | undefined;
  return option?.path ?? [];
}

/** The repairs that somebody said yes to; none for another answer, or a yes to no repair. */
export function agreedPaths(job: Job): readonly string[] {
  const paths = job.cost.decided?.["answer"] === "yes" ? answeredPaths(job) : [];
  return paths.some((path) => NO_REPAIR.includes(path)) ? [] : paths;
}

const NO_REPAIR = ["replace", "replace_pair", "scrap", "as_is", "donor"];
