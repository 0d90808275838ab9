import type { Job, PlannedStep } from "../../api/client";
import { type AnyEntry, entryOf } from "../../device/entries";
import { Button } from "../../ui/button";

// Neutral-cure sealant, unless its pack says sooner.
const CURE_MIN = 720;

/** A wait that belongs to a step: it rings, also on the board, and survives a reload. */
export function Wait({
  job,
  planned,
  onWrite,
}: {
  job: Job;
  planned: PlannedStep;
  onWrite: (entries: readonly AnyEntry[]) => void;
}) {
  const minutes = planned.cure ? CURE_MIN : planned.waits_min;
  if (minutes <= 0 || planned.step === null) return null;
  const about = planned.step;
  const runs = job.any_time.timers.find((t) => t.about === about);
  return (
    <div className="flex flex-wrap items-center gap-3">
      <p>
        {planned.cure ? "It cures 12 to 24 h unless the pack says sooner: no water on it before." : "Then wait "}
        {planned.cure ? null : `${minutes.toFixed(0)} min.`}
      </p>
      {runs ? (
        <Button
          onClick={() => {
            onWrite([entryOf("timer_end", { timer: runs.entry, how: "cut_short" })]);
          }}
        >
          End the wait
        </Button>
      ) : (
        <Button
          onClick={() => {
            onWrite([entryOf("timer", { for: planned.cure ? "cure" : "dwell", minutes, about })]);
          }}
        >
          Begin the wait
        </Button>
      )}
    </div>
  );
}
