import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { client, type Schemas, unwrap } from "./client";
import { keys } from "./keys";

const NOTHING: Schemas["WetLoadIn"] = { cloth: "", dry_litres: 0, rated_kg: 0 };

/** What a load of cloth weighs against the plate. */
export function useWetLoad(load: Schemas["WetLoadIn"] | null) {
  return useQuery({
    queryKey: keys.wetLoad(load),
    enabled: load !== null,
    queryFn: async () => unwrap(await client.POST("/api/wet-load", { body: load ?? NOTHING })),
    placeholderData: (previous) => previous,
    staleTime: Infinity,
    retry: false,
    meta: { saidInPlace: true },
  });
}

/** The sheets of this layout, the one this machine goes by, and the rows of its own test. */
export function useServiceMode(id: string) {
  return useQuery({
    queryKey: keys.serviceMode(id),
    queryFn: async () =>
      unwrap(await client.GET("/api/jobs/{job_id}/service-mode", { params: { path: { job_id: id } } })),
    meta: { saidInPlace: true },
  });
}

/** Keep what was read off a photographed sheet. */
export function useKeepSheet(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async ({ sheet, body }: { sheet: string; body: Schemas["SheetIn"] }) =>
      unwrap(
        await client.PUT("/api/jobs/{job_id}/service-mode/sheets/{sheet_id}", {
          params: { path: { job_id: id, sheet_id: sheet } },
          body,
        }),
      ),
    meta: { saidInPlace: true },
    onSuccess: (mode) => {
      queries.setQueryData(keys.serviceMode(id), mode);
    },
  });
}

/** Say which sheet this machine goes by. */
export function useChooseSheet(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (sheet: string | null) =>
      unwrap(
        await client.PUT("/api/jobs/{job_id}/service-mode/chosen", {
          params: { path: { job_id: id } },
          body: { sheet },
        }),
      ),
    onSuccess: (mode) => {
      queries.setQueryData(keys.serviceMode(id), mode);
    },
  });
}
