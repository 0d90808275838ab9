/** Whole percents, never 0 or 100: no evidence is that good. */
export function percent(probability: number): string {
  if (probability > 0.99) return "over 99 %";
  if (probability < 0.01) return "under 1 %";
  return `${(100 * probability).toFixed(0)} %`;
}

export function megabytes(bytes: number): string {
  return bytes < 1e6 ? `${(bytes / 1e3).toFixed(0)} kB` : `${(bytes / 1e6).toFixed(1)} MB`;
}

export function seconds(value: number): string {
  return value < 90 ? `${value.toFixed(0)} s` : `${Math.floor(value / 60)} min ${(value % 60).toFixed(0)} s`;
}

/** A code such as `rear_panel` in words. */
export function words(code: string): string {
  return code.replaceAll("_", " ");
}

/** A decibel with its sign and a true minus. */
export function signedDb(value: number): string {
  return `${value < 0 ? "−" : "+"}${Math.abs(value).toFixed(1)} dB`;
}

export function when(iso: string, now: Date): string {
  const time = new Date(iso);
  const clock = time.toLocaleTimeString(undefined, { hour: "2-digit", minute: "2-digit" });
  const days = Math.round((startOfDay(now) - startOfDay(time)) / 86_400_000);
  if (days === 0) return `today ${clock}`;
  if (days === 1) return `yesterday ${clock}`;
  return `${time.toLocaleDateString()} ${clock}`;
}

function startOfDay(time: Date): number {
  return new Date(time.getFullYear(), time.getMonth(), time.getDate()).getTime();
}
