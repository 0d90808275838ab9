import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";

import { useWaiting } from "../device/device";
import { jobsOpenedHere, withWaiting } from "../device/overlay";
import { client, type Measuring, unwrap } from "./client";
import { holdJob } from "./held-job";
import { keys } from "./keys";

export const CALM_MS = 15_000;

export function isBusy(measuring: Measuring["state"] | undefined): boolean {
  return measuring === "queued" || measuring === "running" || measuring === "asked";
}

/** The board: what the server has, and what was opened here without a signal. */
export function useBoard() {
  const { entries } = useWaiting();
  const board = useQuery({
    queryKey: keys.jobs(),
    queryFn: async () => unwrap(await client.GET("/api/jobs")),
    refetchInterval: (query) => (query.state.data?.jobs.some((job) => isBusy(job.measuring)) ? 1000 : CALM_MS),
  });
  const jobs = useMemo(() => {
    const known = board.data?.jobs ?? [];
    return [...jobsOpenedHere(known, entries), ...known];
  }, [board.data, entries]);
  return { ...board, jobs };
}

/** One job as the server knows it, with what waits here laid over it. */
export function useJob(id: string) {
  const { entries } = useWaiting();
  // One that was opened here is asked for once the server has it.
  const waits = entries.some((w) => w.jobId === id && w.opens !== false && !w.refused);
  const server = useQuery({
    queryKey: keys.job(id),
    enabled: !waits,
    queryFn: async () => unwrap(await client.GET("/api/jobs/{job_id}", { params: { path: { job_id: id } } })),
    // Changes are told; this is for when the telling is cut off.
    refetchInterval: (query) => (isBusy(query.state.data?.measuring.state) ? 2000 : CALM_MS),
  });
  const job = useMemo(() => withWaiting(server.data, entries, id), [server.data, entries, id]);
  return { ...server, job };
}

export function useHistory(id: string, seq: number) {
  return useQuery({
    queryKey: keys.history(id, seq),
    queryFn: async () =>
      unwrap(await client.GET("/api/jobs/{job_id}/entries", { params: { path: { job_id: id }, query: {} } })),
    placeholderData: (previous) => previous,
  });
}

export function useMeasureAgain(jobId: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async () =>
      unwrap(await client.POST("/api/jobs/{job_id}/measuring", { params: { path: { job_id: jobId } } })),
    onSuccess: (job) => holdJob(queries, job),
  });
}

export function useStopMeasuring(jobId: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async () =>
      unwrap(await client.DELETE("/api/jobs/{job_id}/measuring", { params: { path: { job_id: jobId } } })),
    onSuccess: (job) => holdJob(queries, job),
  });
}
