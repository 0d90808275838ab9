import { useInfiniteQuery } from "@tanstack/react-query";

import { client, type JobShort, unwrap } from "./client";
import { keys } from "./keys";

export interface Wish {
  q: string;
  waits_for: JobShort["waits_for"] | null;
  layout: string | null;
}

const PAGE = 40;

/** Jobs by words, by what they wait for, by layout: a page at a time, the last changed first. */
export function useFound(wish: Wish) {
  const { q, waits_for, layout } = wish;
  return useInfiniteQuery({
    queryKey: keys.found(wish),
    enabled: q.trim() !== "" || waits_for !== null || layout !== null,
    initialPageParam: "",
    queryFn: async ({ pageParam }) =>
      unwrap(
        await client.GET("/api/jobs", {
          params: { query: { limit: PAGE, after: pageParam, q: q.trim(), waits_for, layout } },
        }),
      ),
    getNextPageParam: (page) => page.after,
    placeholderData: (previous) => previous,
    meta: { saidInPlace: true },
  });
}
