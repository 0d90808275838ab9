import type { Job } from "../../api/client";
import { type Body, entryOf } from "../../device/entries";
import { useWrite } from "../../device/use-write";

const DONE = [
  { code: "unplugged", label: "Unplugged, in sight" },
  { code: "proved_dead", label: "Proved dead" },
  { code: "taps_shut", label: "Taps shut" },
  { code: "drained", label: "Drained low" },
  { code: "second_person", label: "Second person here" },
] as const;

/** What was done before anything is touched, one tap each; and what follows from what is missing. */
export function MadeSafe({ job }: { job: Job }) {
  const { write } = useWrite(job.id);
  const { safe } = job.any_time;
  const missing = !safe.includes("unplugged") || !safe.includes("proved_dead");
  return (
    <section aria-label="Made safe" className="sheet hazard flex flex-col gap-3 py-3 pr-3">
      <p>
        <strong>Before anything is touched.</strong>{" "}
        {missing
          ? "No panel comes off and no meter goes on until it is unplugged, or locked off at the breaker, and proved dead."
          : "Unplugged and proved dead."}{" "}
        Never reach into a drum that still turns.
        {job.machine.stacked === true
          ? " A dryer stands on top: leave gas work to licensed fitters, and do not tip the column."
          : ""}{" "}
        Local codes and the machine’s service sheet come first.
      </p>
      <div role="group" aria-label="What was done" className="flex flex-wrap gap-2">
        {DONE.map(({ code, label }) => {
          const done = safe.includes(code);
          return (
            <button
              key={code}
              type="button"
              aria-pressed={done}
              className="min-h-12 border-2 border-ink bg-porcelain px-4 font-bold aria-pressed:bg-ink aria-pressed:text-on-ink rounded-[2px_12px_2px_2px]"
              onClick={() => {
                if (!done) void write([entryOf("made_safe", { [code]: true } as Body<"made_safe">)]);
                else if (code === "unplugged" || code === "proved_dead") void write([entryOf("power_back", {})]);
              }}
            >
              {done ? "✓ " : ""}
              {label}
            </button>
          );
        })}
      </div>
    </section>
  );
}
