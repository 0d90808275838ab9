import { useEffect, useRef, useState } from "react";

import type { ServiceModeData } from "../../../api/client";
import { Button } from "../../../ui/button";

type Beat = ServiceModeData["sheets"][number]["beat"];
const COUNT_IN_S = 3;
const TICK_HZ = 660;
const LAST_HZ = 990;

/**
 * The way into the service mode against its time limit: counted in, then each turn and press on its beat, seen, felt
 * and heard. Several tries are normal.
 */
export function Coach({ beat }: { beat: Beat }) {
  const [begun, setBegun] = useState<number | null>(null);
  const [tries, setTries] = useState(0);
  const [now, setNow] = useState(0);
  const ticked = useRef(-1);
  const sound = useRef<AudioContext | null>(null);
  const elapsed = begun === null ? 0 : (now - begun) / 1000 - COUNT_IN_S;
  const over = begun !== null && elapsed >= beat.lasts_s;
  const at = beat.prompts.findLastIndex((p) => p.at_s <= elapsed);
  useEffect(() => {
    if (begun === null || over) return;
    const frame = setInterval(() => {
      setNow(performance.now());
    }, 50);
    return () => {
      clearInterval(frame);
    };
  }, [begun, over]);
  useEffect(() => {
    if (begun === null || at === ticked.current) return;
    ticked.current = at;
    if (at < 0) return;
    navigator.vibrate?.(60);
    tick(sound.current, at === beat.prompts.length - 1 ? LAST_HZ : TICK_HZ);
  }, [at, begun, beat.prompts.length]);
  const begin = () => {
    sound.current ??= newSound();
    ticked.current = -1;
    setTries(tries + 1);
    setBegun(performance.now());
    setNow(performance.now());
  };
  const current = beat.prompts[at];
  return (
    <section aria-label="The way in" className="flex flex-col gap-3">
      <ol className="flex flex-wrap gap-2">
        {beat.prompts.map((prompt, k) => (
          <li
            key={prompt.at_s}
            className={`border-2 px-3 py-1 ${begun !== null && !over && k === at ? "border-ink bg-marigold font-bold text-on-marigold" : k < at || over ? "border-line bg-seaglass/40" : "border-line bg-porcelain"}`}
          >
            {prompt.says}
          </li>
        ))}
      </ol>
      <p role="timer" aria-live="off" className="min-h-14 font-voice text-4xl font-semibold">
        {begun === null
          ? ""
          : elapsed < 0
            ? `Ready: ${String(Math.ceil(-elapsed))}`
            : over
              ? "Did it show?"
              : (current?.says ?? "")}
      </p>
      <div className="flex flex-wrap items-center gap-4">
        <Button weight="strong" className="min-h-16 text-lg" onClick={begin}>
          {tries === 0 ? "Count me in" : "Once more"}
        </Button>
        <p className="text-ink-soft">
          {beat.limit_s !== null
            ? `${beat.lasts_s.toFixed(1)} s of the ${beat.limit_s.toFixed(0)} s that the sheet allows.`
            : `${beat.lasts_s.toFixed(0)} s; the sheet names no limit.`}
          {tries > 1 ? ` Try ${String(tries)}: several are normal.` : ""}
        </p>
      </div>
    </section>
  );
}

function newSound(): AudioContext | null {
  try {
    return new AudioContext();
  } catch {
    return null; // What may not sound is seen and felt.
  }
}

function tick(context: AudioContext | null, hz: number): void {
  if (!context) return;
  const tone = context.createOscillator();
  const level = context.createGain();
  tone.frequency.value = hz;
  level.gain.setValueAtTime(0.4, context.currentTime);
  level.gain.exponentialRampToValueAtTime(0.001, context.currentTime + 0.09);
  tone.connect(level).connect(context.destination);
  tone.start();
  tone.stop(context.currentTime + 0.1);
}
