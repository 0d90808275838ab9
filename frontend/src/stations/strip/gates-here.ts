import type { Job, StripData } from "../../api/client";

export type Gate = StripData["gates"][number];

const SMOOTH = "smooth";
const TRAY_READY = "tray_ready";
// Asked as soon as anything of the machine itself is open.
const BEGUN = "no_bridge";

/**
 * Gates before power as this device knows them, for when what was done here has not been sent yet: the same questions
 * that the server asks of the diary, of the job with what waits laid over it.
 */
export function gatesHere(job: Job, plan: StripData): Gate[] {
  const begun = plan.gates_ahead.some((g) => g.code === BEGUN && g.steps.some((step) => isDone(job, step, "off")));
  return (begun ? plan.gates_ahead : [])
    .map((gate) => ({ ...gate, steps: gate.steps.filter((step) => isDone(job, step, "off")) }))
    .filter((gate) => gate.steps.length > 0)
    .map((gate) => ({ ...gate, missing: missingOf(gate, job, plan) }));
}

function missingOf(gate: Gate, job: Job, plan: StripData): string {
  switch (gate.code) {
    case "counts_match":
      return job.strip.counted
        .filter((c) => c.out !== null && c.out !== (c.into ?? 0))
        .map(
          (c) =>
            `${nameOf(c.step, plan)}, ${c.group.replaceAll("_", " ")}: ${String(c.out)} out, ${String(c.into ?? 0)} in`,
        )
        .join("; ");
    case "tray_empty":
      return isDone(job, TRAY_READY, "on") ? "" : "nobody has said that the tray is empty";
    case "no_bridge":
      return job.any_time.bridged.map((b) => `bridged: ${b.where}`).join(", ");
    case "hand_turn":
      return turnedByHand(job) ? "" : "not turned by hand since it was closed";
    default:
      return gate.steps
        .filter((step) => !(plan.closed_by[step] ?? [step]).some((closing) => isDone(job, closing, "on")))
        .map((step) => nameOf(step, plan))
        .join(", ");
  }
}

function isDone(job: Job, step: string, way: string): boolean {
  return job.strip.steps.some((s) => idOf(s.step) === step && s.way === way && s.state === "done");
}

function turnedByHand(job: Job): boolean {
  const opened = job.strip.steps.filter((s) => s.way === "off").map((s) => Date.parse(s.at));
  const last = Math.max(-Infinity, ...opened);
  const smooth = job.checks.some(
    (c) => c.check === "hand_turn" && c.values["feel"] === SMOOTH && madeAt(c.entry) > last,
  );
  return smooth || job.proof.proved.some((p) => p.test === "p_hand" && p.passed);
}

/** When an entry was made: its id begins with the milliseconds (RFC 9562, version 7). */
export function madeAt(entry: string): number {
  return Number.parseInt(entry.replaceAll("-", "").slice(0, 12), 16);
}

function idOf(step: string): string {
  return step.split("/").at(-1) ?? step;
}

function nameOf(step: string, plan: StripData): string {
  const planned = [...plan.off, ...plan.fit, ...plan.on].find((p) => p.step !== null && idOf(p.step) === idOf(step));
  return planned?.name ?? idOf(step).replaceAll("_", " ");
}
