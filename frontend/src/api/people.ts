import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { deviceName } from "../device/ids";
import { client, toServerSaid, unwrap } from "./client";
import { keys } from "./keys";

/** Who acts on this device; an error with status 401 where nobody is signed in. */
export function useMe() {
  return useQuery({
    queryKey: keys.me(),
    // Nobody is an answer, not a failure: asked again, it keeps the door standing with what is typed there.
    queryFn: async () => {
      const answer = await client.GET("/api/me");
      return answer.response.status === 401 ? null : unwrap(answer);
    },
    retry: false,
    meta: { saidInPlace: true },
  });
}

/** Sign in by name and password, or come in by a code. */
export function useEnter() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (wish: { name: string; password: string; code?: string }) => {
      const device = deviceName();
      const { code, ...rest } = wish;
      return code === undefined
        ? unwrap(await client.POST("/api/sign-in", { body: { ...rest, device } }))
        : unwrap(await client.POST("/api/join", { body: { ...rest, code, device } }));
    },
    meta: { saidInPlace: true },
    onSuccess: async (me) => {
      queries.setQueryData(keys.me(), me);
      await queries.invalidateQueries();
    },
  });
}

/** Sign out here, or everywhere. What was fetched for this person leaves the device with them. */
export function useLeave() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (everywhere: boolean) => {
      const answer = await client.POST("/api/sign-out", { body: { everywhere } });
      if (answer.error) throw toServerSaid(answer.error, answer.response.status);
    },
    onSuccess: async () => {
      queries.clear();
      await queries.invalidateQueries({ queryKey: keys.me() });
      window.location.assign("/");
    },
  });
}

export function useNewPassword() {
  return useMutation({
    mutationFn: async (body: { old: string; new: string }) => {
      const answer = await client.PUT("/api/me/password", { body });
      if (answer.error) throw toServerSaid(answer.error, answer.response.status);
    },
    meta: { saidInPlace: true },
  });
}

/** Say how long one takes: plans count with it. */
export function usePace() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (pace: number | null) => {
      const answer = await client.PUT("/api/me/pace", { body: { pace } });
      if (answer.error) throw toServerSaid(answer.error, answer.response.status);
    },
    meta: { saidInPlace: true },
    onSuccess: async () => {
      await queries.invalidateQueries();
    },
  });
}

export function usePeople() {
  return useQuery({ queryKey: keys.people(), queryFn: async () => unwrap(await client.GET("/api/people")) });
}

/** A code for somebody new, or for somebody's new password. */
export function useInvite() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (wish: { role: string } | { person: string }) =>
      "role" in wish
        ? unwrap(await client.POST("/api/people/invitations", { body: wish }))
        : unwrap(
            await client.POST("/api/people/{person_id}/recovery", { params: { path: { person_id: wish.person } } }),
          ),
    meta: { saidInPlace: true },
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.people() }),
  });
}

export function useChangePerson() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async ({ id, role, disabled }: { id: string; role: string; disabled: boolean }) =>
      unwrap(
        await client.PUT("/api/people/{person_id}", {
          params: { path: { person_id: id } },
          body: { role, disabled },
        }),
      ),
    meta: { saidInPlace: true },
    onSuccess: (people) => {
      queries.setQueryData(keys.people(), people);
    },
  });
}
