import { type QueryKey, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

/** At which state of its job each answer was last asked for, over all pages: one may be left before it changes. */
const askedAt = new Map<string, number | string>();

/** Ask again once the job has changed; what was answered before stays until then, and without a signal. */
export function useAfresh(queryKey: QueryKey, seq: number | string): void {
  const queries = useQueryClient();
  const key = JSON.stringify(queryKey);
  useEffect(() => {
    const before = askedAt.get(key);
    askedAt.set(key, seq);
    if (before === undefined || before === seq) return;
    void queries.invalidateQueries({ queryKey: JSON.parse(key) as QueryKey });
  }, [queries, key, seq]);
}
