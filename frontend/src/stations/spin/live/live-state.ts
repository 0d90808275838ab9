import type { Reading } from "./line";

export interface TracePoint {
  t_s: number;
  rpm: number | null;
}

/** Recording goes on whether or not the server listens along (`isHeard`); `trace` is the speed so far. */
export type Live =
  | { status: "idle" }
  | { status: "asking" }
  | {
      status: "recording";
      seconds: number;
      reading: Reading | null;
      trace: TracePoint[];
      isHeard: boolean;
      isFelt: boolean;
      isKept: boolean;
    }
  | { status: "refused"; say: string };

export type LiveEvent =
  | { kind: "asked" }
  | { kind: "began" }
  | { kind: "passed"; seconds: number; isHeard: boolean }
  | { kind: "read"; readings: Reading[] }
  | { kind: "felt" }
  | { kind: "not kept" }
  | { kind: "ended" }
  | { kind: "refused"; say: string };

/** A point a quarter of a second is more than a screen can show of a minute. */
const TRACE_STEP_S = 0.25;

export function liveAfter(live: Live, event: LiveEvent): Live {
  switch (event.kind) {
    case "asked":
      return { status: "asking" };
    case "began":
      return { status: "recording", seconds: 0, reading: null, trace: [], isHeard: false, isFelt: false, isKept: true };
    case "refused":
      return { status: "refused", say: event.say };
    case "ended":
      return { status: "idle" };
    case "passed":
      return live.status === "recording" ? { ...live, seconds: event.seconds, isHeard: event.isHeard } : live;
    case "felt":
      return live.status === "recording" ? { ...live, isFelt: true } : live;
    case "not kept":
      return live.status === "recording" ? { ...live, isKept: false } : live;
    case "read": {
      const last = event.readings.at(-1);
      if (live.status !== "recording" || !last) return live;
      return { ...live, reading: last, trace: traced(live.trace, event.readings) };
    }
    default: {
      const never: never = event;
      return never;
    }
  }
}

function traced(trace: TracePoint[], readings: readonly Reading[]): TracePoint[] {
  const out = [...trace];
  for (const reading of readings) {
    const last = out.at(-1);
    if (last && reading.t_s - last.t_s < TRACE_STEP_S) continue;
    out.push({ t_s: reading.t_s, rpm: reading.speed && !reading.speed.is_steady ? reading.speed.rpm : null });
  }
  return out;
}
