import { useEffect, useRef } from "react";
import { Link } from "react-router";

import type { Job } from "../api/client";
import { leftOf, useNow } from "../lib/now";
import { words } from "../lib/format";

const BEEP_HZ = 880;

/** Waits that run, on every page of the job; each rings when its time is up. */
export function Timers({ job }: { job: Job }) {
  const { timers } = job.any_time;
  const now = useNow(timers.length > 0);
  const rung = useRef(new Set<string>());
  useEffect(() => {
    for (const timer of timers) {
      const { over, seconds } = leftOf(timer.rings_at, now);
      if (!over || rung.current.has(timer.entry)) continue;
      rung.current.add(timer.entry);
      // What was over long before this page was opened is shown, not rung.
      if (seconds > -5) ring();
    }
  }, [timers, now]);
  if (timers.length === 0) return null;
  return (
    <ul aria-label="Waits" className="flex flex-wrap gap-2 pt-3">
      {timers.map((timer) => {
        const { over, text } = leftOf(timer.rings_at, now);
        const about = timer.about ?? timer.what;
        return (
          <li key={timer.entry}>
            <Link
              to={`/jobs/${job.id}/${whereOf(about)}`}
              className={`inline-flex min-h-12 items-center gap-3 border-2 border-ink px-4 font-bold ${over ? "bg-marigold text-on-marigold" : "bg-porcelain"}`}
            >
              {words(about.split("/").at(-1) ?? about)} <span className="font-mono">{over ? "time is up" : text}</span>
            </Link>
          </li>
        );
      })}
    </ul>
  );
}

/** The page that a wait belongs to: a check, a step of the strip, else the history. */
function whereOf(about: string): string {
  if (about.startsWith("staged_fill")) return "hands/staged_fill";
  if (about.startsWith("proof:auto_test")) return "proof/service-mode";
  if (about.startsWith("proof:")) return "proof";
  return about.includes("/") ? "strip" : "history";
}

function ring(): void {
  navigator.vibrate?.([300, 150, 300]);
  try {
    const context = new AudioContext();
    const tone = context.createOscillator();
    tone.frequency.value = BEEP_HZ;
    tone.connect(context.destination);
    tone.start();
    tone.stop(context.currentTime + 0.6);
    tone.onended = () => void context.close();
  } catch {
    // A page that may not sound yet shows it all the same.
  }
}
