import type { Job } from "../../api/client";
import { type AnyEntry, type Body, entryOf, takenBack } from "../../device/entries";

/** What is told of a symptom besides that it is there; each by a code of the diary. */
export interface TellingDetails {
  phase?: string;
  since?: string;
  loads?: string;
  after?: string;
}

/** The form as typed: numbers stay text until they are sent, so that nothing typed is changed under the fingers. */
export interface JobDraft {
  place: string;
  layout: string;
  maxSpinRpm: string;
  pulleyRatio: string;
  frontBearing: string;
  rearBearing: string;
  ageYears: string;
  mainsHz: string;
  symptoms: string[];
  details: Record<string, TellingDetails>;
  note: string;
  /** The machine of the register that somebody said this is. */
  knownAs: string;
}

/** What was changed and not sent yet: fields that nobody touched stay as everybody else leaves them. */
export type Edits = Partial<JobDraft>;

export const EMPTY_DRAFT: JobDraft = {
  place: "",
  layout: "",
  maxSpinRpm: "",
  pulleyRatio: "",
  frontBearing: "",
  rearBearing: "",
  ageYears: "",
  mainsHz: "",
  symptoms: [],
  details: {},
  note: "",
  knownAs: "",
};

export function draftOf(job: Job): JobDraft {
  const text = (value: number | null | undefined) => (value == null ? "" : String(value));
  const { machine } = job;
  return {
    place: job.place,
    layout: machine.layout ?? "",
    maxSpinRpm: text(machine.max_spin_rpm),
    pulleyRatio: text(machine.pulley_ratio),
    frontBearing: machine.bearings.front ?? "",
    rearBearing: machine.bearings.rear ?? "",
    ageYears: text(machine.age_years),
    mainsHz: text(machine.mains_hz),
    symptoms: job.symptoms,
    details: detailsOf(job),
    note: job.note,
    knownAs: job.known_as ?? "",
  };
}

function detailsOf(job: Job): Record<string, TellingDetails> {
  return Object.fromEntries(
    job.told
      .filter((t) => t.present)
      .map(({ symptom, phase, since, loads, after }) => {
        const told = Object.entries({ phase, since, loads, after }).filter(([, value]) => value !== null);
        return [symptom, Object.fromEntries(told)];
      }),
  );
}

const NUMBERS = {
  maxSpinRpm: { key: "max_spin_rpm", name: "plate speed" },
  pulleyRatio: { key: "pulley_ratio", name: "pulley ratio" },
  ageYears: { key: "age_years", name: "age" },
  mainsHz: { key: "mains_hz", name: "mains" },
} as const;

export type Checked = { ok: true; entries: AnyEntry[] } | { ok: false; say: string };

/** What has to be told before a job is opened; null when all of it is. */
export function missing(draft: JobDraft): string | null {
  return draft.place.trim() === "" ? "Say where the machine is." : null;
}

/** The entries that say what was edited, and nothing else; or what cannot be read. */
export function entriesOf(edits: Edits, before: JobDraft, notes: readonly { entry: string }[] = []): Checked {
  const facts: Body<"machine"> = {};
  if (edits.place !== undefined && edits.place.trim() !== before.place) {
    if (edits.place.trim() === "") return { ok: false, say: "Say where the machine is." };
    facts.place = edits.place.trim();
  }
  if (edits.layout !== undefined && edits.layout !== before.layout) {
    facts.layout = (edits.layout || null) as Body<"machine">["layout"];
  }
  if (edits.knownAs !== undefined && edits.knownAs !== before.knownAs) facts.known_as = edits.knownAs || null;
  for (const [field, { key, name }] of Object.entries(NUMBERS) as [
    keyof typeof NUMBERS,
    (typeof NUMBERS)[keyof typeof NUMBERS],
  ][]) {
    const typed = edits[field];
    if (typed === undefined || typed === before[field]) continue;
    const value = number(typed);
    if (Number.isNaN(value)) return { ok: false, say: `The ${name} is not a number.` };
    facts[key] = value;
  }
  const bearings: { front?: string | null; rear?: string | null } = {};
  if (edits.frontBearing !== undefined && edits.frontBearing !== before.frontBearing)
    bearings.front = edits.frontBearing || null;
  if (edits.rearBearing !== undefined && edits.rearBearing !== before.rearBearing)
    bearings.rear = edits.rearBearing || null;
  if (Object.keys(bearings).length > 0) facts.bearings = bearings;
  const entries: AnyEntry[] = Object.keys(facts).length > 0 ? [entryOf("machine", facts)] : [];
  return { ok: true, entries: [...entries, ...symptomEntries(edits, before), ...noteEntries(edits, before, notes)] };
}

function symptomEntries(edits: Edits, before: JobDraft): AnyEntry[] {
  const symptoms = edits.symptoms ?? before.symptoms;
  const details = edits.details ?? before.details;
  const told = (symptom: string, present: boolean) => {
    const known = Object.entries(details[symptom] ?? {}).filter(([, value]) => value !== "");
    const more = present ? Object.fromEntries(known) : {};
    // Chosen from the catalogue's lists, which are where the types come from as well.
    return entryOf("told", { symptom, present, ...more } as Body<"told">);
  };
  const isNew = (code: string) =>
    !before.symptoms.includes(code) ||
    JSON.stringify(details[code] ?? {}) !== JSON.stringify(before.details[code] ?? {});
  return [
    ...symptoms.filter(isNew).map((code) => told(code, true)),
    ...before.symptoms.filter((code) => !symptoms.includes(code)).map((code) => told(code, false)),
  ];
}

/** The note as one entry: it takes the place of the first that was there, the others are taken back. */
function noteEntries(edits: Edits, before: JobDraft, notes: readonly { entry: string }[]): AnyEntry[] {
  if (edits.note === undefined || edits.note === before.note) return [];
  const [first, ...rest] = notes.map((n) => n.entry);
  const gone = rest.map((id) => takenBack("note", id));
  if (edits.note.trim() === "") return first === undefined ? [] : [takenBack("note", first), ...gone];
  return [entryOf("note", { text: edits.note, about: "story" }, first), ...gone];
}

function number(text: string): number | null {
  const clean = text.trim().replace(",", ".");
  return clean === "" ? null : Number(clean);
}
