import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { expect, it } from "vitest";

import { emptyJob } from "../device/overlay";
import type { Job } from "./client";
import { holdJob } from "./held-job";
import { keys } from "./keys";

function job(seq: number): Job {
  return { ...emptyJob("a", ""), seq };
}

it("holds what the server just told, whatever was asked for before and comes late", async () => {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const answers: ((job: Job) => void)[] = [];
  const observer = new QueryObserver<Job>(queries, {
    queryKey: keys.job("a"),
    queryFn: () =>
      new Promise<Job>((answer) => {
        answers.push(answer);
      }),
  });
  const seen: number[] = [];
  const leave = observer.subscribe((result) => {
    if (result.data) seen.push(result.data.seq);
  });
  expect(answers).toHaveLength(1);
  await holdJob(queries, job(2));
  answers[0]?.(job(1));
  await Promise.resolve();
  expect(queries.getQueryData<Job>(keys.job("a"))?.seq).toBe(2);
  // Another device may have written since: it is asked for again.
  expect(answers).toHaveLength(2);
  answers[1]?.(job(3));
  await expect.poll(() => seen.at(-1)).toBe(3);
  expect(seen).not.toContain(1);
  leave();
  queries.clear();
});

it("asks for nothing where nothing was under way", async () => {
  const queries = new QueryClient();
  await holdJob(queries, job(2));
  expect(queries.getQueryData<Job>(keys.job("a"))?.seq).toBe(2);
  expect(queries.isFetching()).toBe(0);
});
