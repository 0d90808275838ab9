import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { client, unwrap } from "./client";
import { CALM_MS } from "./jobs";
import { keys } from "./keys";

export function useShop() {
  return useQuery({ queryKey: keys.shop(), queryFn: async () => unwrap(await client.GET("/api/shop")) });
}

/** Machines without a customer, and the used parts on the shelf. */
export function useStock() {
  return useQuery({
    queryKey: keys.stock(),
    queryFn: async () => unwrap(await client.GET("/api/shop/stock")),
    // What was just entered may still be on its way.
    refetchInterval: CALM_MS,
  });
}

export function useSettle() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (settings: Readonly<Record<string, unknown>>) =>
      unwrap(await client.PUT("/api/shop", { body: { settings: { ...settings } } })),
    meta: { saidInPlace: true },
    onSuccess: (shop) => {
      queries.setQueryData(keys.shop(), shop);
      void queries.invalidateQueries({ queryKey: keys.record() });
      // Every sum rests on them.
      void queries.invalidateQueries({ predicate: (query) => query.queryKey[2] === "offer" });
    },
  });
}

/** How often the shop's calls were right, and what that taught it. */
export function useRecord() {
  return useQuery({ queryKey: keys.record(), queryFn: async () => unwrap(await client.GET("/api/record")) });
}

/** Count an ended job no more, with why; or again, with null. */
export function useLeaveOut() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async ({ job, why }: { job: string; why: string | null }) =>
      unwrap(await client.PUT("/api/record/{job_id}/left-out", { params: { path: { job_id: job } }, body: { why } })),
    meta: { saidInPlace: true },
    onSuccess: (record) => {
      queries.setQueryData(keys.record(), record);
    },
  });
}
