import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import type { Job } from "../api/client";
import { offerQuery, proofQuery, stripOfQuery, stripQuery } from "../api/repairs";

const CALM_MS = 1500;
const FRESH_MS = 60_000;

/**
 * As long as there is a signal, what Cost, Strip and Proof need is fetched before anybody asks: offers, and the plan of
 * every repair in them, so that a yes in the cellar leads on to its plan.
 */
export function useForTheCellar(job: Job | undefined): void {
  const queries = useQueryClient();
  const id = job?.id ?? "";
  const ready = job?.call != null && job.any_time.closed === null && job.machine.layout != null;
  const weighed = job?.call?.weighed;
  useEffect(() => {
    if (!ready) return undefined;
    const timer = setTimeout(() => {
      void fetchAll();
    }, CALM_MS);
    const fetchAll = async () => {
      if (!navigator.onLine) return;
      const offer = await queries
        .fetchQuery({ ...offerQuery(id, {}), staleTime: FRESH_MS })
        // Without a signal, or without a sum, there is nothing to fetch: the stations say so themselves.
        .catch(() => null);
      if (offer === null) return;
      await queries.prefetchQuery({ ...stripQuery(id), staleTime: FRESH_MS });
      await queries.prefetchQuery({ ...proofQuery(id), staleTime: FRESH_MS });
      for (const { paths } of offer.offer.options) {
        if (paths.length > 0) await queries.prefetchQuery({ ...stripOfQuery(id, paths), staleTime: FRESH_MS });
      }
    };
    return () => {
      clearTimeout(timer);
    };
  }, [queries, id, ready, weighed]);
}
