import type { QueryClient } from "@tanstack/react-query";

import type { Job } from "./client";
import { keys } from "./keys";

/**
 * Hold a job as the server has just told it. An answer that was asked for before may come after this and is older:
 * it is not waited for, but asked for again, since others may have written meanwhile.
 */
export async function holdJob(queries: QueryClient, job: Job): Promise<void> {
  const only = { queryKey: keys.job(job.id), exact: true };
  const underWay = queries.isFetching(only) > 0;
  if (underWay) await queries.cancelQueries(only);
  queries.setQueryData(only.queryKey, job);
  if (underWay) void queries.invalidateQueries(only);
}
