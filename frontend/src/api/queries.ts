import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { type Analysis, client, type JobChange, type Schemas, unwrap } from "./client";

export const keys = {
  catalogue: () => ["catalogue"] as const,
  jobs: () => ["jobs"] as const,
  job: (id: number) => ["jobs", id] as const,
  call: (id: number, analysisId: number) => ["jobs", id, "call", analysisId] as const,
  beside: (id: number, analysisId: number, other: number | undefined) =>
    ["jobs", id, "beside", analysisId, other] as const,
};

export function isBusy(analysis: Analysis | null | undefined): boolean {
  return analysis?.state === "queued" || analysis?.state === "running";
}

export function useCatalogue() {
  return useQuery({
    queryKey: keys.catalogue(),
    queryFn: async () => unwrap(await client.GET("/api/catalogue")),
    staleTime: Infinity,
  });
}

export function useBoard() {
  return useQuery({
    queryKey: keys.jobs(),
    queryFn: async () => unwrap(await client.GET("/api/jobs")),
    refetchInterval: (query) => (query.state.data?.jobs.some((job) => isBusy(job.analysis)) ? 1000 : 15_000),
  });
}

export function useJob(id: number) {
  return useQuery({
    queryKey: keys.job(id),
    queryFn: async () => unwrap(await client.GET("/api/jobs/{job_id}", { params: { path: { job_id: id } } })),
    refetchInterval: (query) => (isBusy(query.state.data?.analysis) ? 400 : false),
  });
}

export function useCall(id: number, analysisId: number | undefined) {
  return useQuery({
    queryKey: keys.call(id, analysisId ?? 0),
    enabled: analysisId !== undefined,
    queryFn: async () => unwrap(await client.GET("/api/jobs/{job_id}/call", { params: { path: { job_id: id } } })),
    placeholderData: (previous) => previous,
    staleTime: Infinity,
  });
}

export function useBeside(id: number, analysisId: number | undefined, other: number | undefined) {
  return useQuery({
    queryKey: keys.beside(id, analysisId ?? 0, other),
    enabled: analysisId !== undefined,
    queryFn: async () =>
      unwrap(
        await client.GET("/api/jobs/{job_id}/beside", {
          params: { path: { job_id: id }, query: other === undefined ? {} : { other } },
        }),
      ),
    placeholderData: (previous) => previous,
  });
}

export function useNewJob() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (body: Schemas["JobIn"]) => unwrap(await client.POST("/api/jobs", { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.jobs() }),
  });
}

export function useChangeJob(id: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (body: JobChange) =>
      unwrap(await client.PATCH("/api/jobs/{job_id}", { params: { path: { job_id: id } }, body })),
    onSuccess: (job) => {
      queries.setQueryData(keys.job(id), job);
      return queries.invalidateQueries({ queryKey: keys.jobs(), exact: true });
    },
  });
}

export function useRemoveRecording(jobId: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (recordingId: number) => {
      const answer = await client.DELETE("/api/recordings/{recording_id}", {
        params: { path: { recording_id: recordingId } },
      });
      if (!answer.response.ok) unwrap(answer);
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.job(jobId) }),
  });
}

export function useAnalyseAgain(jobId: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async () =>
      unwrap(await client.POST("/api/jobs/{job_id}/analyses", { params: { path: { job_id: jobId } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.job(jobId) }),
  });
}

export function useCancelAnalysis(jobId: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (analysisId: number) =>
      unwrap(
        await client.POST("/api/analyses/{analysis_id}/cancel", { params: { path: { analysis_id: analysisId } } }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.job(jobId) }),
  });
}
