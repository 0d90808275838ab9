import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import { keys } from "../api/keys";

/** As long as a job is open here, fetch it anew whenever somebody else changed it. */
export function useChanges(jobId: string, revision: number | undefined): void {
  const queries = useQueryClient();
  const isKnown = revision !== undefined;
  useEffect(() => {
    if (!isKnown) return undefined;
    const source = new EventSource(`/api/jobs/${jobId}/changes`);
    source.addEventListener("changed", () => {
      void queries.invalidateQueries({ queryKey: keys.job(jobId), exact: true });
      void queries.invalidateQueries({ queryKey: keys.jobs(), exact: true });
    });
    return () => {
      source.close();
    };
  }, [jobId, isKnown, queries]);
}
