import type { Job, PlannedStep } from "../../api/client";
import { type AnyEntry, entryOf } from "../../device/entries";
import { OneChip } from "../../ui/chips";

export function Looks({
  job,
  planned,
  onWrite,
}: {
  job: Job;
  planned: PlannedStep;
  onWrite: (entries: readonly AnyEntry[]) => void;
}) {
  if (planned.looks.length === 0) return null;
  return (
    <section aria-label="While it is open" className="flex flex-col gap-3 border-l-8 border-marigold pl-4">
      <h3 className="font-bold">While it is open, look at</h3>
      {planned.looks.map((look) => {
        const seen = job.strip.seen.find((s) => s.part === look.part)?.condition ?? "";
        const means = look.conditions.find((c) => c.code === seen)?.means;
        return (
          <div key={look.part}>
            <p className="pb-1">{look.name}</p>
            <OneChip
              label={look.name}
              options={look.conditions.map((c) => ({ value: c.code, label: c.name }))}
              value={seen}
              onChange={(condition) => {
                if (condition !== "") onWrite([entryOf("seen", { part: look.part, condition })]);
              }}
            />
            {means ? <p className="pt-1 font-bold">{means}</p> : null}
          </div>
        );
      })}
    </section>
  );
}
