import { useRef, useState } from "react";

import { startCapture } from "../../spin/live/capture";
import type { MotionRow } from "../../spin/live/take";

export interface Taken {
  rate_hz: number;
  samples: Float32Array;
  rows: MotionRow[];
}

type State = { at: "ready" } | { at: "taking"; left_s: number } | { at: "refused" };

/** Hears and feels for some seconds, counted down, then hands on what came. */
export function useTakeSeconds(seconds: number, onTaken: (taken: Taken) => void) {
  const [state, setState] = useState<State>({ at: "ready" });
  const busy = useRef(false);
  const take = async () => {
    if (busy.current) return;
    busy.current = true;
    const parts: Float32Array[] = [];
    const rows: MotionRow[] = [];
    try {
      const capture = await startCapture({
        onSound: (samples) => parts.push(samples.slice()),
        onMotion: (more) => rows.push(...more),
      });
      for (let left = seconds; left > 0; left -= 1) {
        setState({ at: "taking", left_s: left });
        await new Promise((done) => setTimeout(done, 1000));
      }
      capture.stop();
      setState({ at: "ready" });
      onTaken({ rate_hz: capture.rate_hz, samples: joined(parts), rows });
    } catch {
      setState({ at: "refused" });
    } finally {
      busy.current = false;
    }
  };
  return { state, take };
}

function joined(parts: readonly Float32Array[]): Float32Array {
  const whole = new Float32Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

/** Sound as 16-bit little-endian numbers in base64. */
export function base64Of(samples: Float32Array): string {
  const bytes = new Uint8Array(2 * samples.length);
  const view = new DataView(bytes.buffer);
  samples.forEach((value, k) => {
    view.setInt16(2 * k, Math.round(32767 * Math.max(-1, Math.min(1, value))), true);
  });
  let text = "";
  for (let k = 0; k < bytes.length; k += 0x8000) text += String.fromCharCode(...bytes.subarray(k, k + 0x8000));
  return btoa(text);
}
