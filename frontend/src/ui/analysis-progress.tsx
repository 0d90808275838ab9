import { Progress } from "radix-ui";

import type { Job } from "../api/client";
import { isBusy, useAnalyseAgain, useCancelAnalysis } from "../api/queries";
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

/** Where the running analysis is, by stage, with a way to stop it; or what went wrong. */
export function AnalysisProgress({ job, stages }: { job: Job; stages: readonly string[] }) {
  const cancel = useCancelAnalysis(job.id);
  const again = useAnalyseAgain(job.id);
  const { analysis } = job;
  if (!analysis) return null;
  if (analysis.state === "failed") {
    return (
      <div>
        <Trouble title={analysis.error ?? "The analysis failed."} safe="All recordings are kept as they were." />
        <Button
          onClick={() => {
            again.mutate();
          }}
        >
          Try again
        </Button>
      </div>
    );
  }
  if (analysis.state === "cancelled") {
    return (
      <p className="mt-4 flex flex-wrap items-center gap-3">
        The analysis was stopped. What you see is the last finished one.
        <Button
          onClick={() => {
            again.mutate();
          }}
        >
          Analyse again
        </Button>
      </p>
    );
  }
  if (!isBusy(analysis)) return null;
  const index = analysis.stage ? stages.indexOf(analysis.stage) : -1;
  const share = stages.length > 0 ? Math.round((100 * (index + 1)) / (stages.length + 1)) : 0;
  const words = analysis.stage ? (STAGE_WORDS[analysis.stage] ?? analysis.stage) : "Waiting its turn";
  return (
    <div className="mt-4 flex flex-wrap items-center gap-4" role="status">
      <div className="min-w-52 flex-1">
        <p>{words} …</p>
        <Progress.Root value={share} aria-label={words} className="mt-1 h-3 overflow-hidden border-2 border-ink">
          <Progress.Indicator className="h-full bg-ink" style={{ width: `${String(share)}%` }} />
        </Progress.Root>
      </div>
      <Button
        onClick={() => {
          cancel.mutate(analysis.id);
        }}
      >
        Stop
      </Button>
    </div>
  );
}
