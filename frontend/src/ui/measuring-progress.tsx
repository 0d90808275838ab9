import { Progress } from "radix-ui";

import type { Job } from "../api/client";
import { isBusy, useMeasureAgain, useStopMeasuring } from "../api/jobs";
import { Button } from "./button";
import { Trouble } from "./trouble";

const STAGE_WORDS: Record<string, string> = {
  reading: "Reading the recordings",
  spectra: "Taking spectra",
  speed: "Finding the drum's speed",
  orders: "Following once-per-turn motion",
  bearings: "Looking for bearing lines",
  impacts: "Counting knocks and ticks",
  drive: "Listening to motor and belt",
  weighing: "Weighing the evidence",
};

/** How far the measuring of the recordings is, by stage, with a way to stop it; or what went wrong. */
export function MeasuringProgress({ job, stages }: { job: Job; stages: readonly string[] }) {
  const stop = useStopMeasuring(job.id);
  const again = useMeasureAgain(job.id);
  const { measuring } = job;
  const askAgain = () => {
    again.mutate();
  };
  if (measuring.state === "failed") {
    return (
      <div>
        <Trouble title={measuring.error ?? "The measuring failed."} safe="All recordings are kept as they were." />
        <Button disabled={again.isPending} onClick={askAgain}>
          Try again
        </Button>
      </div>
    );
  }
  if (measuring.state === "cancelled") {
    return (
      <p className="mt-4 flex flex-wrap items-center gap-3">
        The measuring was stopped. What you see is weighed without it.
        <Button disabled={again.isPending} onClick={askAgain}>
          Measure again
        </Button>
      </p>
    );
  }
  if (!isBusy(measuring.state)) return null;
  const index = measuring.stage ? stages.indexOf(measuring.stage) : -1;
  const share = stages.length > 0 ? Math.round((100 * (index + 1)) / (stages.length + 1)) : 0;
  const words = measuring.stage ? (STAGE_WORDS[measuring.stage] ?? measuring.stage) : "Waiting its turn";
  return (
    <div className="mt-4 flex flex-wrap items-center gap-4" role="status">
      <div className="min-w-52 flex-1">
        <p>{words} …</p>
        <Progress.Root value={share} aria-label={words} className="mt-1 h-3 overflow-hidden border-2 border-ink">
          <Progress.Indicator className="h-full bg-ink" style={{ width: `${String(share)}%` }} />
        </Progress.Root>
      </div>
      <Button
        disabled={stop.isPending}
        onClick={() => {
          stop.mutate();
        }}
      >
        Stop
      </Button>
    </div>
  );
}
