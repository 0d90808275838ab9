import { useQuery } from "@tanstack/react-query";

import { client, unwrap } from "./client";
import { keys } from "./keys";

export function useCatalogue() {
  return useQuery({
    queryKey: keys.catalogue(),
    queryFn: async () => unwrap(await client.GET("/api/catalogue")),
    staleTime: 3_600_000,
  });
}

/** What the values of a check say by themselves, as they are entered; kept for when there is no signal. */
export function useJudged(check: string, values: Readonly<Record<string, unknown>> | undefined, layout: string | null) {
  return useQuery({
    queryKey: keys.judged(check, values, layout),
    enabled: values !== undefined,
    queryFn: async () => unwrap(await client.POST("/api/judge", { body: { check, values: { ...values }, layout } })),
    placeholderData: (previous) => previous,
    staleTime: Infinity,
    retry: false,
    // Values that cannot be are refused beside the field.
    meta: { saidInPlace: true },
  });
}

/** One fault on one layout, as the knowledge tells it. */
export function useFault(layout: string, fault: string) {
  return useQuery({
    queryKey: keys.fault(layout, fault),
    queryFn: async () =>
      unwrap(await client.GET("/api/faults/{layout}/{fault}", { params: { path: { layout, fault } } })),
    staleTime: Infinity,
    meta: { saidInPlace: true },
  });
}

/** What tells two faults of a layout apart; asked only where there are two. */
export function useApart(layout: string, fault: string, other: string) {
  return useQuery({
    queryKey: keys.apart(layout, fault, other),
    queryFn: async () =>
      unwrap(
        await client.GET("/api/faults/{layout}/{fault}/apart/{other}", { params: { path: { layout, fault, other } } }),
      ),
    enabled: layout !== "" && fault !== "" && other !== "",
    staleTime: Infinity,
    meta: { saidInPlace: true },
  });
}
