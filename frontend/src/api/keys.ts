export const keys = {
  catalogue: () => ["catalogue"] as const,
  jobs: () => ["jobs"] as const,
  job: (id: string) => ["jobs", id] as const,
  call: (id: string, weighed: number) => ["jobs", id, "call", weighed] as const,
  beside: (id: string, weighed: number, other: string | undefined) => ["jobs", id, "beside", weighed, other] as const,
  history: (id: string, seq: number) => ["jobs", id, "history", seq] as const,
  machines: (place: string) => ["machines", place] as const,
  machine: (id: string) => ["machines", "one", id] as const,
  judged: (check: string, values: unknown, layout: string | null) => ["judged", check, values, layout] as const,
};
