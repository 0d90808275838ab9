import type { MotionRow } from "./take";

export interface Capture {
  rate_hz: number;
  stop: () => void;
}
export interface Taken {
  onSound: (samples: Float32Array, rate_hz: number) => void;
  onMotion: (rows: MotionRow[]) => void;
}

/** Motion events ask for leave on some phones, and only from a tap. */
interface AskingMotionEvent {
  requestPermission?: () => Promise<string>;
}

/** Rows are handed on in small bundles: a message for each would cost more than it carries. */
const ROWS_TOGETHER = 3;

/**
 * Records the microphone as it is, nothing cancelled or levelled out, and the phone's motion on the sound's clock.
 * Throws when there is no leave to listen.
 */
export async function startCapture(taken: Taken): Promise<Capture> {
  const mayFeel = askForMotion();
  const stream = await navigator.mediaDevices.getUserMedia({
    audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false },
  });
  const context = new AudioContext();
  const closeAll = () => {
    stream.getTracks().forEach((track) => {
      track.stop();
    });
    void context.close();
  };
  try {
    await context.audioWorklet.addModule("/sound-tap.js");
  } catch (problem) {
    closeAll();
    throw problem;
  }
  const tap = new AudioWorkletNode(context, "sound-tap");
  let zero_ms: number | null = null;
  tap.port.onmessage = (event: MessageEvent<{ samples: Float32Array; end_s: number }>) => {
    const { samples, end_s } = event.data;
    if (zero_ms === null) {
      // The moment of the first sample on the page's clock, by the context's own account of both clocks where it has one.
      const stamp = context.getOutputTimestamp();
      const now_ms =
        stamp.performanceTime !== undefined && stamp.contextTime !== undefined && stamp.performanceTime > 0
          ? stamp.performanceTime + 1000 * (end_s - stamp.contextTime)
          : performance.now();
      zero_ms = now_ms - (1000 * samples.length) / context.sampleRate;
    }
    taken.onSound(samples, context.sampleRate);
  };
  context.createMediaStreamSource(stream).connect(tap);
  const rows: MotionRow[] = [];
  const felt = (event: DeviceMotionEvent) => {
    const a = event.accelerationIncludingGravity;
    if (zero_ms === null || a?.x == null || a.y == null || a.z == null) return;
    // x to the right, y to the back, z up, as it lies on the machine's top with its head to the back.
    rows.push([(event.timeStamp - zero_ms) / 1000, a.x, a.y, a.z]);
    if (rows.length >= ROWS_TOGETHER) taken.onMotion(rows.splice(0));
  };
  if (await mayFeel) window.addEventListener("devicemotion", felt);
  return {
    rate_hz: context.sampleRate,
    stop: () => {
      window.removeEventListener("devicemotion", felt);
      if (rows.length > 0) taken.onMotion(rows.splice(0));
      tap.port.onmessage = null;
      closeAll();
    },
  };
}

async function askForMotion(): Promise<boolean> {
  if (typeof DeviceMotionEvent === "undefined") return false;
  const ask = (DeviceMotionEvent as unknown as AskingMotionEvent).requestPermission;
  if (!ask) return true;
  return (await ask().catch(() => "denied")) === "granted";
}
