import { startCapture } from "./capture";
import { beginTake, keepPart, type KeptContent } from "./keep";
import { Line, lineUrl } from "./line";
import type { LiveEvent } from "./live-state";
import { motionBlock, type MotionRow, soundBlock } from "./take";

const KEEP_EVERY_MS = 1000;

export interface Session {
  stop: () => Promise<Ended>;
}

/** A recording that is over: its number on this device, and what there was no room for any more. */
export interface Ended {
  takeId: number;
  unkept: KeptContent;
}

/** Records sound and motion, keeps them part by part, and lets the server listen along. Throws when it cannot begin. */
export async function beginSession(jobId: string, tell: (event: LiveEvent) => void): Promise<Session> {
  let sound: Float32Array[] = [];
  let motion: MotionRow[] = [];
  let recorded = 0;
  let line: Line | null = null;
  let isFelt = false;
  const capture = await startCapture({
    onSound: (samples, rate_hz) => {
      line ??= new Line(lineUrl(jobId), rate_hz, (readings) => {
        tell({ kind: "read", readings });
      });
      line.sendSound(soundBlock(samples), recorded / rate_hz);
      sound.push(samples);
      recorded += samples.length;
    },
    onMotion: (rows) => {
      if (!isFelt) tell({ kind: "felt" });
      isFelt = true;
      motion.push(...rows);
      line?.sendMotion(motionBlock(rows));
    },
  });
  let takeId: number;
  try {
    takeId = await beginTake({ jobId, began: Date.now(), rate_hz: capture.rate_hz });
  } catch (problem) {
    capture.stop();
    throw problem;
  }
  tell({ kind: "began" });
  if (isFelt) tell({ kind: "felt" });
  const keep = async () => {
    const part = { takeId, sound, motion };
    [sound, motion] = [[], []];
    try {
      if (part.sound.length + part.motion.length > 0) await keepPart(part);
    } catch (problem) {
      // Tried again with the next part: memory holds it until then.
      [sound, motion] = [
        [...part.sound, ...sound],
        [...part.motion, ...motion],
      ];
      tell({ kind: "not kept" });
      throw problem;
    }
  };
  let keeping: Promise<void> = Promise.resolve();
  const timer = window.setInterval(() => {
    keeping = keeping.then(keep).catch(() => undefined);
    tell({ kind: "passed", seconds: recorded / capture.rate_hz, isHeard: line?.isOpen ?? false });
  }, KEEP_EVERY_MS);
  const stop = async () => {
    window.clearInterval(timer);
    capture.stop();
    line?.close();
    await keeping;
    await keep().catch(() => undefined);
    return { takeId, unkept: { sound, motion } };
  };
  return { stop };
}
