import { useQuery } from "@tanstack/react-query";

import { useAfresh } from "./afresh";
import { client, unwrap } from "./client";
import { keys } from "./keys";

export function useCall(id: string, weighed: number | undefined) {
  return useQuery({
    queryKey: keys.call(id, weighed ?? 0),
    enabled: weighed !== undefined,
    queryFn: async () => unwrap(await client.GET("/api/jobs/{job_id}/call", { params: { path: { job_id: id } } })),
    placeholderData: (previous) => previous,
    staleTime: Infinity,
  });
}

export function useBeside(id: string, weighed: number | undefined, other: string | undefined) {
  return useQuery({
    queryKey: keys.beside(id, weighed ?? 0, other),
    enabled: weighed !== undefined,
    queryFn: async () =>
      unwrap(
        await client.GET("/api/jobs/{job_id}/beside", {
          params: { path: { job_id: id }, query: other === undefined ? {} : { other } },
        }),
      ),
    placeholderData: (previous) => previous,
  });
}

/** What to do now, as a sum; `tried` are prices to see when it would flip. */
export function useDecision(id: string, weighed: number, tried: Readonly<Record<string, unknown>>) {
  useAfresh(keys.decisions(id), weighed);
  return useQuery({
    queryKey: keys.decision(id, tried),
    queryFn: async () =>
      unwrap(
        await client.POST("/api/jobs/{job_id}/decision", {
          params: { path: { job_id: id } },
          body: { tried: { ...tried } },
        }),
      ),
    placeholderData: (previous) => previous,
    retry: false,
    meta: { saidInPlace: true },
  });
}

/** The call as it would be: if a check came out so, or without what the shop's own jobs taught. */
export function useWhatIf(
  id: string,
  weighed: number,
  supposed: { check?: string; level?: string; taught?: boolean } | null,
) {
  const { check, level, taught } = supposed ?? {};
  return useQuery({
    queryKey: keys.whatIf(id, weighed, { check, level, taught }),
    queryFn: async () =>
      unwrap(
        await client.GET("/api/jobs/{job_id}/what-if", {
          params: { path: { job_id: id }, query: { check, level, taught } },
        }),
      ),
    enabled: supposed !== null,
  });
}
