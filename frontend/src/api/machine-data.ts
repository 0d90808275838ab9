import { useMutation, useQueryClient } from "@tanstack/react-query";

import { client, toServerSaid, unwrap } from "./client";

/** Take a machine away for good, with its visits and people; its place has to be typed. */
export function useForgetMachine(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (place: string) => {
      const answer = await client.POST("/api/machines/{machine_id}/forget", {
        params: { path: { machine_id: id } },
        body: { place },
      });
      if (answer.error) throw toServerSaid(answer.error, answer.response.status);
    },
    meta: { saidInPlace: true },
    // Nothing of it stays on this device either.
    onSuccess: () => {
      queries.clear();
    },
  });
}

/** Say that a machine that was entered twice is the other. */
export function useMergeMachine(id: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (into: string) =>
      unwrap(
        await client.POST("/api/machines/{machine_id}/merge", {
          params: { path: { machine_id: id } },
          body: { into },
        }),
      ),
    meta: { saidInPlace: true },
    onSuccess: () => queries.invalidateQueries(),
  });
}
