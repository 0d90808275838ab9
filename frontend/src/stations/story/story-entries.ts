import type { Catalogue, Job } from "../../api/client";
import { type AnyEntry, type Body, entryOf, takenBack } from "../../device/entries";
import type { Read } from "../../ui/typed-field";

/** What is told of a symptom besides that it is there; each by a code of the diary. */
export interface TellingDetails {
  phase?: string;
  since?: string;
  loads?: string;
  after?: string;
}

/** Symptoms that were told, with what was told of each. */
export interface Telling {
  symptoms: readonly string[];
  details: Readonly<Record<string, TellingDetails>>;
}

export function tellingOf(job: Job): Telling {
  const told = job.told.filter((t) => t.present);
  const details = told.map(({ symptom, phase, since, loads, after }) => {
    const known = Object.entries({ phase, since, loads, after }).filter(([, value]) => value !== null);
    return [symptom, Object.fromEntries(known)] as const;
  });
  return { symptoms: told.map((t) => t.symptom), details: Object.fromEntries(details) };
}

/** The entries that say what is told otherwise than before, and nothing else. */
export function toldEntries(before: Telling, now: Telling): AnyEntry[] {
  const told = (symptom: string, present: boolean) => {
    const known = Object.entries(now.details[symptom] ?? {}).filter(([, value]) => value !== "");
    const more = present ? Object.fromEntries(known) : {};
    // Chosen from the catalogue's lists, which are where the types come from as well.
    return entryOf("told", { symptom, present, ...more } as Body<"told">);
  };
  const isNew = (code: string) =>
    !before.symptoms.includes(code) ||
    JSON.stringify(now.details[code] ?? {}) !== JSON.stringify(before.details[code] ?? {});
  return [
    ...now.symptoms.filter(isNew).map((code) => told(code, true)),
    ...before.symptoms.filter((code) => !now.symptoms.includes(code)).map((code) => told(code, false)),
  ];
}

/** A note about something as one entry: it takes the place of the first that was there, the others are taken back. */
export function noteEntries(text: string, about: string, notes: readonly { entry: string }[]): AnyEntry[] {
  const [first, ...rest] = notes.map((n) => n.entry);
  const gone = rest.map((id) => takenBack("note", id));
  if (text.trim() === "") return first === undefined ? [] : [takenBack("note", first), ...gone];
  return [entryOf("note", { text, about }, first), ...gone];
}

type PlateNumber = Catalogue["plate"][string];

/** A number as it is typed, with a comma or a point; nothing typed takes it back. */
export function readNumber(typed: string, limits: PlateNumber | undefined): Read<number | null> {
  const clean = typed.trim().replace(",", ".");
  if (clean === "") return { ok: true, value: null };
  const value = Number(clean);
  if (Number.isNaN(value)) return { ok: false, say: "That is not a number: digits, such as 11.4." };
  if (limits && (value < limits.low || value > limits.high)) {
    return { ok: false, say: `That cannot be: it lies between ${String(limits.low)} and ${String(limits.high)}.` };
  }
  return { ok: true, value };
}

/** A question about a number that can be but hardly is; null for one that is usual. */
export function unlikelyNumber(saved: string, limits: PlateNumber | undefined): string | null {
  if (saved === "" || limits === undefined) return null;
  const value = Number(saved);
  if (value >= limits.usual_low && value <= limits.usual_high) return null;
  return `Usual is ${String(limits.usual_low)} to ${String(limits.usual_high)}. Is it ${saved}?`;
}

/** Text that may be left empty, or may not. */
export function readText(needed?: string): (typed: string) => Read<string> {
  return (typed) => {
    const text = typed.trim();
    return text === "" && needed !== undefined ? { ok: false, say: needed } : { ok: true, value: text };
  };
}
