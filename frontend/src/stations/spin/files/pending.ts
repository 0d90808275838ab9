export interface Pending {
  key: string;
  file: File;
  kind: string;
  test: string;
  position: string;
  load: string;
  run: string;
  startS: string;
  powerCutS: string;
  /** The recording on this device that it comes from, if it was recorded here. */
  takeId?: number;
  /** Whether its end lives in this page alone. */
  isUnkept?: boolean;
}

/** Kinds for which it matters where the phone or sensor lay. */
export function isLaidSomewhere(kind: string): boolean {
  return kind === "audio" || kind === "acceleration";
}

/** What a dropped file most likely is, by its name. The server checks what it really is. */
export function guessKind(name: string): string {
  const lower = name.toLowerCase();
  if (lower.endsWith(".csv")) {
    if (lower.includes("tacho")) return "tacho";
    return lower.includes("current") || lower.includes("amp") ? "current" : "acceleration";
  }
  return "audio";
}

/** A name that is free in the job: `spin.wav`, `spin-2.wav`, … so that nothing is replaced unasked. */
export function freeName(name: string, taken: readonly string[]): string {
  if (!taken.includes(name)) return name;
  const dot = name.lastIndexOf(".");
  const stem = dot > 0 ? name.slice(0, dot) : name;
  const end = dot > 0 ? name.slice(dot) : "";
  for (let k = 2; ; k += 1) {
    const next = `${stem}-${String(k)}${end}`;
    if (!taken.includes(next)) return next;
  }
}

export function pendingOf(file: File, previous: Pending | undefined): Pending {
  return {
    key: `${file.name}-${String(file.size)}-${String(file.lastModified)}`,
    file,
    kind: guessKind(file.name),
    test: "spin",
    position: previous?.position ?? "top_centre",
    load: previous?.load ?? "empty",
    run: previous?.run ?? "1",
    startS: "0",
    powerCutS: "",
  };
}

/** A run that no recording of the job belongs to yet: what is recorded together has a clock of its own. */
export function freeRun(taken: readonly (string | null | undefined)[]): string {
  let run = 1;
  while (taken.includes(String(run))) run += 1;
  return String(run);
}

/** One entry changed; what was recorded together with it lay at the same place, in the same test. */
export function changed(entries: readonly Pending[], next: Pending): Pending[] {
  const { test, position, load, run, takeId } = next;
  return entries.map((entry) => {
    if (entry.key === next.key) return next;
    return takeId !== undefined && entry.takeId === takeId ? { ...entry, test, position, load, run } : entry;
  });
}
