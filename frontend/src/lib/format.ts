/** Whole percents, never 0 or 100: no evidence is that good. */
export function percent(probability: number): string {
  if (probability > 0.99) return "over 99\u00a0%";
  if (probability < 0.01) return "under 1\u00a0%";
  return `${(100 * probability).toFixed(0)}\u00a0%`;
}

/** How often in a hundred, never 0 or 100. */
export function inHundred(probability: number): string {
  return percent(probability).replace("\u00a0%", " in 100");
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

/** How long a used part has run; nothing where nobody said. */
export function hoursRun(hours: number | null): string {
  return hours === null ? "" : `has run about ${hours.toString()} h`;
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

/** The clock of a moment, with its day where it is not today. */
export function clock(iso: string): string {
  return new Date(iso).toLocaleString(undefined, { dateStyle: "short", timeStyle: "short" });
}

/** A day, with its year where it is not this one. */
export function day(iso: string, now = new Date()): string {
  const on = new Date(`${iso}T12:00:00`);
  const year = on.getFullYear() === now.getFullYear() ? {} : { year: "numeric" as const };
  return on.toLocaleDateString(undefined, { day: "numeric", month: "short", ...year });
}

/** Values that were entered, in one line. */
export function saidBy(values: Readonly<Record<string, unknown>>): string {
  return Object.values(values)
    .map((value) => {
      if (value === true) return "yes";
      if (value === false) return "no";
      if (Array.isArray(value)) return value.length === 0 ? "none" : value.map(String).join(" · ");
      if (typeof value === "object" && value !== null) {
        return Object.entries(value)
          .map(([of, said]) => `${words(of)} ${saidBy({ said })}`)
          .join(" · ");
      }
      return String(value).replaceAll("_", " ");
    })
    .join(", ");
}

/** A number that must not be torn from its sign, error or unit at the end of a line. */
export function unbroken(text: string): string {
  return text
    .replaceAll(" ± ", "\u00a0±\u00a0")
    .replace(/(\d) (?=(%|dB|Hz|kHz|rpm|mm|s|min|A|V|N|turns)\b|%)/g, "$1\u00a0");
}

/** A phrase as it stands within a sentence: its first letter small, codes such as T10 as they are. */
export function within(phrase: string): string {
  const [first = "", second = ""] = phrase;
  return second === second.toUpperCase() && /[A-Z0-9]/.test(second) ? phrase : first.toLowerCase() + phrase.slice(1);
}

/** A number as it was typed, with point or comma; null where it is none. */
export function numberOf(text: string): number | null {
  const number = Number(text.trim().replace(",", "."));
  return text.trim() !== "" && Number.isFinite(number) ? number : null;
}
