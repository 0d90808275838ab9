import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { client, type Job, unwrap } from "./client";
import { keys } from "./keys";

/** Machines whose place sounds like this one; nothing is asked before three letters are there. */
export function useMachinesLike(place: string) {
  const asked = place.trim();
  return useQuery({
    queryKey: keys.machines(asked),
    enabled: asked.length >= 3,
    queryFn: async () => unwrap(await client.GET("/api/machines", { params: { query: { place: asked } } })),
    placeholderData: (previous) => previous,
  });
}

/** The spins of all visits to a machine, by speed, the oldest first. */
export function useSpins(id: string) {
  return useQuery({
    queryKey: keys.spins(id),
    queryFn: async () =>
      unwrap(await client.GET("/api/machines/{machine_id}/spins", { params: { path: { machine_id: id } } })),
    meta: { saidInPlace: true },
  });
}

/** What the shop knows of machines like this job's; one that was opened without a signal is asked about later. */
export function usePlatform(job: Job) {
  return useQuery({
    queryKey: keys.platform(job.id, job.seq),
    enabled: job.number > 0,
    queryFn: async () =>
      unwrap(await client.GET("/api/jobs/{job_id}/platform", { params: { path: { job_id: job.id } } })),
    placeholderData: (previous) => previous,
  });
}

/** The register: those of which a visit holds all the words of `q`; the last changed ones without. */
export function useRegister(q: string) {
  const asked = q.trim();
  return useQuery({
    queryKey: keys.register(asked),
    queryFn: async () => unwrap(await client.GET("/api/machines", { params: { query: { q: asked } } })),
    placeholderData: (previous) => previous,
  });
}

export function useMachine(id: string) {
  return useQuery({
    queryKey: keys.machine(id),
    queryFn: async () =>
      unwrap(await client.GET("/api/machines/{machine_id}", { params: { path: { machine_id: id } } })),
    meta: { saidInPlace: true },
  });
}

/** Say what a code on a display means, or take it out of the shop's table. */
export function useSettleCode() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (code: { layout: string; text: string; means: string | null }) =>
      unwrap(await client.PUT("/api/shop/codes", { body: code })),
    meta: { saidInPlace: true },
    onSuccess: (shop) => {
      queries.setQueryData(keys.shop(), shop);
      void queries.invalidateQueries({ predicate: (query) => query.queryKey[2] === "platform" });
    },
  });
}
