import type { Job, PlannedStep, StripData } from "../../api/client";

export type Way = "off" | "on";
/** A step of the plan in its place: which way it goes, and which part of the plan it belongs to. */
export interface Placed {
  key: string;
  part: "off" | "fit" | "on";
  way: Way;
  planned: PlannedStep;
}
export type StepState = "open" | "done" | "skipped" | "stuck";

/** The whole plan in one row: off, fitted, back on. */
export function placed(plan: StripData): Placed[] {
  const row = (part: Placed["part"], way: Way) =>
    plan[part].map((planned, i) => ({ key: `${part}-${String(i)}`, part, way, planned }));
  return [...row("off", "off"), ...row("fit", "on"), ...row("on", "on")];
}

/** How a step stands. An act without a step of its own is noted by its words. */
export function stateOf(job: Job, { planned, way }: Placed): StepState {
  if (planned.step === null)
    return job.any_time.notes.some((n) => n.about === ACTS && n.text === planned.name) ? "done" : "open";
  const taken = job.strip.steps.find((s) => s.step === planned.step && s.way === way);
  return taken ? (taken.state as StepState) : "open";
}

/** What a note on an act that is no step is about. */
export const ACTS = "strip:act";

/** The first step that is neither done nor skipped; optional ones are passed over once something behind them is done. */
export function nextStep(job: Job, steps: readonly Placed[]): Placed | null {
  const states = steps.map((step) => stateOf(job, step));
  const last = states.findLastIndex((state) => state === "done" || state === "skipped");
  return (
    steps.find((step, i) => {
      const state = states[i];
      if (state === "stuck") return true;
      return state === "open" && !(step.planned.optional && i < last);
    }) ?? null
  );
}

export interface Tally {
  out: number | null;
  into: number | null;
}

export function tallyOf(job: Job, step: string, group: string): Tally {
  const counted = job.strip.counted.find((c) => c.step === step && c.group === group);
  return { out: counted?.out ?? null, into: counted?.into ?? null };
}

/** Groups whose count does not come out even, as words. */
export function uneven(job: Job, steps: readonly Placed[]): string[] {
  const seen = new Set<string>();
  return steps.flatMap(({ planned }) =>
    planned.fasteners.flatMap((f) => {
      const key = `${planned.step ?? ""}.${f.group}`;
      if (planned.step === null || seen.has(key)) return [];
      seen.add(key);
      const { out, into } = tallyOf(job, planned.step, f.group);
      return out !== null && out !== (into ?? 0)
        ? [
            `cell ${String(f.cell)}, ${planned.name}, ${f.group.replaceAll("_", " ")}: ${String(out - (into ?? 0))} still in the tray`,
          ]
        : [];
    }),
  );
}

/** Minutes that are left without trouble. */
export function minutesLeft(job: Job, steps: readonly Placed[]): number {
  return steps
    .filter((step) => !step.planned.optional && stateOf(job, step) === "open")
    .reduce((sum, step) => sum + step.planned.minutes, 0);
}

const MARKS = "Marks at ";

/** Hours of the clock at which marks stand, as a note that anybody can read. */
export function marksText(hours: readonly number[]): string {
  return hours.length === 0
    ? `${MARKS}no hour`
    : `${MARKS}${hours.map((h) => String(h === 0 ? 12 : h)).join(", ")} o’clock`;
}

/** The hours that such a note names; null for any other note. */
export function marksOf(text: string): number[] | null {
  if (!text.startsWith(MARKS)) return null;
  const hours = text.slice(MARKS.length).match(/\d+/g) ?? [];
  return hours.map((h) => Number(h) % 12);
}
