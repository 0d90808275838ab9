import type { Job } from "../../api/client";
import { Button } from "../../ui/button";
import { type Placed } from "./strip-state";

/** What to try when it will not come: the next rung only after the one before has failed. */
export function Ladder({ job, placed, onNext }: { job: Job; placed: Placed; onNext: (rung: number) => void }) {
  const { ladder, step } = placed.planned;
  if (!ladder) return null;
  const rung = job.strip.steps.find((s) => s.step === step && s.way === placed.way)?.rung ?? 0;
  const shown = ladder.rungs.slice(0, rung + 1);
  return (
    <section aria-label="When it will not come" className="sheet flex flex-col gap-3 p-4">
      <h3 className="text-xl">{ladder.name} will not come</h3>
      <ol className="flex list-decimal flex-col gap-1 pl-6">
        {shown.map((r, i) => (
          <li key={r.do} className={i === rung ? "font-bold" : "text-ink-soft"}>
            {r.do}
            {r.risk ? `: ${r.risk[0]?.toLowerCase() ?? ""}${r.risk.slice(1)}` : ""}
          </li>
        ))}
      </ol>
      <p>
        <strong>Stop when:</strong> {ladder.stop_when}
      </p>
      {rung < ladder.rungs.length - 1 ? (
        <Button
          onClick={() => {
            onNext(rung + 1);
          }}
        >
          That did not help: what next?
        </Button>
      ) : (
        <p>Nothing milder is left: ask the customer before anything is destroyed.</p>
      )}
    </section>
  );
}
