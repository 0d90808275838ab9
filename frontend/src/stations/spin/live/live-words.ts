import type { Schemas } from "../../../api/client";

type Reading = Schemas["LiveReadingOut"];
type Part = Schemas["LivePartOut"];

const PHASES: Record<Reading["phase"], string> = {
  listening: "listening",
  rest: "at rest",
  tumble: "tumbling",
  distribute: "spreading the load",
  ramp: "speeding up",
  plateau: "holding its speed",
  slowing: "slowing down",
};
const PARTS: Record<Part["name"], string> = {
  rest_before: "quiet before",
  ramp: "speeding up",
  full_speed: "full speed",
  coast_down: "slowing, motor off",
  rest_after: "quiet after",
};

export function phaseWords(reading: Reading): string {
  return PHASES[reading.phase];
}

export function partWords(part: Part): string {
  return PARTS[part.name];
}

export function isEnough(part: Part): boolean {
  return part.seen_s >= part.needed_s;
}

/** The speed as it may be told: with its error, with its doubts, or not at all. */
export function speedWords(reading: Reading | null): { rpm: string; beside: string } {
  const speed = reading?.speed;
  if (!speed) return { rpm: "–", beside: "speed not known" };
  const rpm = String(Math.round(speed.rpm));
  if (speed.is_steady) return { rpm: `${rpm}?`, beside: "steady since it began: drum or something beside it" };
  if (!speed.is_felt) return { rpm: `${rpm}?`, beside: "rpm by sound alone" };
  return { rpm, beside: `rpm ± ${String(Math.max(1, Math.round(speed.sigma_rpm)))}` };
}

/** What to do now, one thing at a time. */
export function adviceWords(reading: Reading | null): string {
  if (!reading) return "Waiting for the first sound.";
  if (reading.must_stop) return "Stop the spin: the cabinet moves too much.";
  if (reading.is_clipped) return "Too loud for the microphone: move the phone away.";
  const lacking = reading.parts.find((part) => !isEnough(part));
  if (!lacking) return "A full test. Stop recording.";
  const left = `${String(Math.ceil(lacking.needed_s - lacking.seen_s))} s`;
  const say: Record<Part["name"], string> = {
    rest_before: "Keep still for a moment: the quiet room first.",
    ramp: "Start the spin.",
    full_speed:
      lacking.seen_s > 0 ? `Is this full speed? Hold it for ${left} more.` : "Let it reach full speed and hold it.",
    coast_down: "Switch the motor off and let it coast down.",
    rest_after:
      lacking.seen_s > 0 ? `Leave it at rest: ${left} more.` : "Let it come to rest, and leave it so for a moment.",
  };
  return say[lacking.name];
}
