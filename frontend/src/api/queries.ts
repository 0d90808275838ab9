import { type QueryKey, queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo } from "react";

import { useWaiting } from "../device/device";
import { jobsOpenedHere, withWaiting } from "../device/overlay";
import { deviceName } from "../device/ids";
import { client, type Job, type Measuring, toServerSaid, unwrap } from "./client";
import { keys } from "./keys";

export { keys };

const CALM_MS = 15_000;

export function isBusy(measuring: Measuring["state"] | undefined): boolean {
  return measuring === "queued" || measuring === "running" || measuring === "asked";
}

export function useCatalogue() {
  return useQuery({
    queryKey: keys.catalogue(),
    queryFn: async () => unwrap(await client.GET("/api/catalogue")),
    staleTime: 3_600_000,
  });
}

/** The board: what the server has, and what was opened here without a signal. */
export function useBoard() {
  const { entries } = useWaiting();
  const board = useQuery({
    queryKey: keys.jobs(),
    queryFn: async () => unwrap(await client.GET("/api/jobs")),
    refetchInterval: (query) => (query.state.data?.jobs.some((job) => isBusy(job.measuring)) ? 1000 : CALM_MS),
  });
  const jobs = useMemo(() => {
    const known = board.data?.jobs ?? [];
    return [...jobsOpenedHere(known, entries), ...known];
  }, [board.data, entries]);
  return { ...board, jobs };
}

/** One job as the server knows it, with what waits here laid over it. */
export function useJob(id: string) {
  const { entries } = useWaiting();
  // One that was opened here is asked for once the server has it.
  const waits = entries.some((w) => w.jobId === id && w.opens !== false && !w.refused);
  const server = useQuery({
    queryKey: keys.job(id),
    enabled: !waits,
    queryFn: async () => unwrap(await client.GET("/api/jobs/{job_id}", { params: { path: { job_id: id } } })),
    // Changes are told; this is for when the telling is cut off.
    refetchInterval: (query) => (isBusy(query.state.data?.measuring.state) ? 2000 : CALM_MS),
  });
  const job = useMemo(() => withWaiting(server.data, entries, id), [server.data, entries, id]);
  return { ...server, job };
}

export function useCall(id: string, weighed: number | undefined) {
  return useQuery({
    queryKey: keys.call(id, weighed ?? 0),
    enabled: weighed !== undefined,
    queryFn: async () => unwrap(await client.GET("/api/jobs/{job_id}/call", { params: { path: { job_id: id } } })),
    placeholderData: (previous) => previous,
    staleTime: Infinity,
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

export function useHistory(id: string, seq: number) {
  return useQuery({
    queryKey: keys.history(id, seq),
    queryFn: async () =>
      unwrap(await client.GET("/api/jobs/{job_id}/entries", { params: { path: { job_id: id }, query: {} } })),
    placeholderData: (previous) => previous,
  });
}

/** Machines whose place sounds like this one; nothing is asked before three letters are there. */
export function useMachinesLike(place: string) {
  const asked = place.trim();
  return useQuery({
    queryKey: keys.machines(asked),
    enabled: asked.length >= 3,
    queryFn: async () => unwrap(await client.GET("/api/machines", { params: { query: { place: asked } } })),
    placeholderData: (previous) => previous,
  });
}

/** The spins of all visits to a machine, by speed, the oldest first. */
export function useSpins(id: string) {
  return useQuery({
    queryKey: keys.spins(id),
    queryFn: async () =>
      unwrap(await client.GET("/api/machines/{machine_id}/spins", { params: { path: { machine_id: id } } })),
    meta: { saidInPlace: true },
  });
}

/** What the shop knows of machines like this job's; one that was opened without a signal is asked about later. */
export function usePlatform(job: Job) {
  return useQuery({
    queryKey: keys.platform(job.id, job.seq),
    enabled: job.number > 0,
    queryFn: async () =>
      unwrap(await client.GET("/api/jobs/{job_id}/platform", { params: { path: { job_id: job.id } } })),
    placeholderData: (previous) => previous,
  });
}

/** The register: those of which a visit holds all the words of `q`; the last changed ones without. */
export function useRegister(q: string) {
  const asked = q.trim();
  return useQuery({
    queryKey: keys.register(asked),
    queryFn: async () => unwrap(await client.GET("/api/machines", { params: { query: { q: asked } } })),
    placeholderData: (previous) => previous,
  });
}

export function useMachine(id: string) {
  return useQuery({
    queryKey: keys.machine(id),
    queryFn: async () =>
      unwrap(await client.GET("/api/machines/{machine_id}", { params: { path: { machine_id: id } } })),
    meta: { saidInPlace: true },
  });
}

/** At which state of its job each answer was last asked for, over all pages: one may be left before it changes. */
const askedAt = new Map<string, number | string>();

/** Ask again once the job has changed; what was answered before stays until then, and without a signal. */
function useAfresh(queryKey: QueryKey, seq: number | string): void {
  const queries = useQueryClient();
  const key = JSON.stringify(queryKey);
  useEffect(() => {
    const before = askedAt.get(key);
    askedAt.set(key, seq);
    if (before === undefined || before === seq) return;
    void queries.invalidateQueries({ queryKey: JSON.parse(key) as QueryKey });
  }, [queries, key, seq]);
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

export function useShop() {
  return useQuery({ queryKey: keys.shop(), queryFn: async () => unwrap(await client.GET("/api/shop")) });
}

/** Machines without a customer, and the used parts on the shelf. */
export function useStock() {
  return useQuery({
    queryKey: keys.stock(),
    queryFn: async () => unwrap(await client.GET("/api/shop/stock")),
    // What was just entered may still be on its way.
    refetchInterval: CALM_MS,
  });
}

/** Say what a code on a display means, or take it out of the shop's table. */
export function useSettleCode() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (code: { layout: string; text: string; means: string | null }) =>
      unwrap(await client.PUT("/api/shop/codes", { body: code })),
    meta: { saidInPlace: true },
    onSuccess: (shop) => {
      queries.setQueryData(keys.shop(), shop);
      void queries.invalidateQueries({ predicate: (query) => query.queryKey[2] === "platform" });
    },
  });
}

export function useSettle() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (settings: Readonly<Record<string, unknown>>) =>
      unwrap(await client.PUT("/api/shop", { body: { settings: { ...settings } } })),
    meta: { saidInPlace: true },
    onSuccess: (shop) => {
      queries.setQueryData(keys.shop(), shop);
      void queries.invalidateQueries({ queryKey: keys.record() });
      // Every sum rests on them.
      void queries.invalidateQueries({ predicate: (query) => query.queryKey[2] === "offer" });
    },
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

/** How often the shop's calls were right, and what that taught it. */
export function useRecord() {
  return useQuery({ queryKey: keys.record(), queryFn: async () => unwrap(await client.GET("/api/record")) });
}

/** Count an ended job no more, with why; or again, with null. */
export function useLeaveOut() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async ({ job, why }: { job: string; why: string | null }) =>
      unwrap(await client.PUT("/api/record/{job_id}/left-out", { params: { path: { job_id: job } }, body: { why } })),
    meta: { saidInPlace: true },
    onSuccess: (record) => {
      queries.setQueryData(keys.record(), record);
    },
  });
}

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

export function useMeasureAgain(jobId: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async () =>
      unwrap(await client.POST("/api/jobs/{job_id}/measuring", { params: { path: { job_id: jobId } } })),
    onSuccess: (job) => {
      queries.setQueryData(keys.job(jobId), job);
    },
  });
}

export function useStopMeasuring(jobId: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async () =>
      unwrap(await client.DELETE("/api/jobs/{job_id}/measuring", { params: { path: { job_id: jobId } } })),
    onSuccess: (job) => {
      queries.setQueryData(keys.job(jobId), job);
    },
  });
}
