import type { Job, MachineFacts } from "../../api/client";

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
  note: string;
}

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
  note: "",
};

export function draftOf(job: Job): JobDraft {
  const text = (value: number | null | undefined) => (value == null ? "" : String(value));
  const { machine } = job;
  return {
    place: job.place,
    layout: machine.layout,
    maxSpinRpm: text(machine.max_spin_rpm),
    pulleyRatio: text(machine.pulley_ratio),
    frontBearing: machine.front_bearing ?? "",
    rearBearing: machine.rear_bearing ?? "",
    ageYears: text(machine.age_years),
    mainsHz: text(machine.mains_hz),
    symptoms: job.symptoms,
    note: job.note,
  };
}

export type Checked = { ok: true; machine: MachineFacts } | { ok: false; say: string };

/** The machine's facts from the draft, or what keeps them from being sent. Decimal commas are understood. */
export function machineOf(draft: JobDraft, rest: Partial<MachineFacts> = {}): Checked {
  if (draft.place.trim() === "") return { ok: false, say: "Say where the machine is." };
  if (draft.layout === "") return { ok: false, say: "Choose the layout." };
  const numbers = {
    max_spin_rpm: number(draft.maxSpinRpm),
    pulley_ratio: number(draft.pulleyRatio),
    age_years: number(draft.ageYears),
    mains_hz: number(draft.mainsHz),
  };
  const names = { max_spin_rpm: "plate speed", pulley_ratio: "pulley ratio", age_years: "age", mains_hz: "mains" };
  for (const [key, value] of Object.entries(numbers)) {
    if (Number.isNaN(value)) return { ok: false, say: `The ${names[key as keyof typeof names]} is not a number.` };
  }
  return {
    ok: true,
    machine: {
      spider_arms: 3,
      ...rest,
      layout: draft.layout,
      ...numbers,
      front_bearing: draft.frontBearing || null,
      rear_bearing: draft.rearBearing || null,
    },
  };
}

function number(text: string): number | null {
  const clean = text.trim().replace(",", ".");
  return clean === "" ? null : Number(clean);
}
