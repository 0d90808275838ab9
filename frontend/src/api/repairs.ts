import { queryOptions, useQuery } from "@tanstack/react-query";

import { useAfresh } from "./afresh";
import { client, unwrap } from "./client";
import { keys } from "./keys";

/** All that can be put to the customer; `tried` are settings to see what would follow. */
export function offerQuery(id: string, tried: Readonly<Record<string, unknown>>) {
  return queryOptions({
    queryKey: keys.offer(id, tried),
    queryFn: async () =>
      unwrap(
        await client.POST("/api/jobs/{job_id}/offer", {
          params: { path: { job_id: id } },
          body: { faults: [], tried: { ...tried } },
        }),
      ),
    retry: false,
    meta: { saidInPlace: true },
  });
}

export function useOffer(id: string, seq: number, tried: Readonly<Record<string, unknown>>) {
  useAfresh(keys.offers(id), seq);
  return useQuery({ ...offerQuery(id, tried), placeholderData: (previous) => previous });
}

export function stripQuery(id: string) {
  return queryOptions({
    queryKey: keys.strip(id),
    queryFn: async () => unwrap(await client.GET("/api/jobs/{job_id}/strip", { params: { path: { job_id: id } } })),
    retry: false,
    meta: { saidInPlace: true },
  });
}

/** The plan of other repairs than those that were agreed to. */
export function stripOfQuery(id: string, paths: readonly string[]) {
  return queryOptions({
    queryKey: keys.stripOf(id, paths.join("+")),
    queryFn: async () =>
      unwrap(
        await client.GET("/api/jobs/{job_id}/strip", {
          params: { path: { job_id: id }, query: { path: [...paths] } },
        }),
      ),
    retry: false,
    meta: { saidInPlace: true },
  });
}

/**
 * The plan of a strip, and how far it is; kept for when there is no signal. agreed : to which repairs somebody said yes
 * here, which the server may not know yet: then their plan is the one that was fetched beforehand.
 */
export function useStrip(id: string, seq: number, agreed: readonly string[]) {
  useAfresh(keys.strip(id), seq);
  const own = useQuery({ ...stripQuery(id), placeholderData: (previous) => previous });
  const code = agreed.join("+");
  const differs = code !== "" && own.data?.paths.map((p) => p.code).join("+") !== code;
  const other = useQuery({ ...stripOfQuery(id, agreed), enabled: differs });
  const data = differs && other.data ? { ...other.data, agreed: true } : own.data;
  return { ...own, data };
}

/** Which tests a repair asks for, how each stands, and the machine before and after. */
export function proofQuery(id: string) {
  return queryOptions({
    queryKey: keys.proof(id),
    queryFn: async () => unwrap(await client.GET("/api/jobs/{job_id}/proof", { params: { path: { job_id: id } } })),
    retry: false,
    meta: { saidInPlace: true },
  });
}

export function useProof(id: string, seq: number, measured: string) {
  useAfresh(keys.proof(id), `${String(seq)} ${measured}`);
  return useQuery({ ...proofQuery(id), placeholderData: (previous) => previous });
}
