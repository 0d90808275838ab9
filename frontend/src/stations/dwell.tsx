import { useState } from "react";

import type { Job } from "../api/client";
import { entryOf } from "../device/entries";
import { useWrite } from "../device/use-write";
import { leftOf, useNow } from "../lib/now";
import { Button } from "../ui/button";

const WAITS = [5, 10, 20, 30];

/**
 * One level of water, kept for its wait: dry or not. The wait stands in the diary under `about`, so that it outlives a
 * reload and rings on every device. `held` says why no water may go in yet.
 */
export function Dwell({
  job,
  about,
  usual,
  held,
  onDry,
  onDrips,
}: {
  job: Job;
  about: string;
  usual: number;
  held?: string;
  onDry: (minutes: number) => void;
  onDrips: (minutes: number) => void;
}) {
  const { write } = useWrite(job.id);
  const [minutes, setMinutes] = useState(usual);
  const timer = job.any_time.timers.find((t) => t.about === about);
  const now = useNow(timer !== undefined);
  const left = timer ? leftOf(timer.rings_at, now) : null;
  const waited = timer ? Math.max(1, Math.round(timer.minutes - Math.max(0, left?.seconds ?? 0) / 60)) : 0;
  const end = async (how: "rang" | "cut_short") => {
    if (timer) await write([entryOf("timer_end", { timer: timer.entry, how })]);
  };
  if (!timer || !left) {
    const waits = WAITS.includes(usual) ? WAITS : [usual, ...WAITS].sort((a, b) => a - b);
    return (
      <>
        <div role="group" aria-label="How long it is kept" className="flex flex-wrap gap-2">
          {waits.map((wait) => (
            <button
              key={wait}
              type="button"
              aria-pressed={wait === minutes}
              className="min-h-12 border-2 border-line bg-porcelain px-4 font-bold aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-on-ink"
              onClick={() => {
                setMinutes(wait);
              }}
            >
              {wait} min
            </button>
          ))}
        </div>
        {held ? <p className="border-l-8 border-double border-ink-soft py-1 pl-4">{held}</p> : null}
        <Button
          weight="strong"
          disabled={held !== undefined}
          onClick={() => {
            void write([entryOf("timer", { for: "dwell", minutes, about })]);
          }}
        >
          Filled: begin the wait
        </Button>
      </>
    );
  }
  return (
    <>
      <p role="timer" className="font-mono text-4xl font-bold">
        {left.over ? "Time is up" : left.text}
      </p>
      <Button
        className="min-h-20 text-lg"
        onClick={() => {
          void end("cut_short").then(() => {
            onDrips(waited);
          });
        }}
      >
        It drips
      </Button>
      <Button
        weight={left.over ? "strong" : "plain"}
        onClick={() => {
          void end(left.over ? "rang" : "cut_short").then(() => {
            onDry(waited);
          });
        }}
      >
        {left.over ? "Dry" : "Stop waiting: dry so far"}
      </Button>
    </>
  );
}
