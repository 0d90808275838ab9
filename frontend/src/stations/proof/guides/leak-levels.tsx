import type { Job, ProofData } from "../../../api/client";
import { type AnyEntry, entryOf } from "../../../device/entries";
import { useDraft } from "../../../lib/draft";
import { leftOf, useNow } from "../../../lib/now";
import { Button } from "../../../ui/button";
import { Dwell } from "../../dwell";

/** A leak test level by level: each kept for its wait, the first that drips ends it and is named. */
export function LeakLevels({
  job,
  test,
  onWrite,
}: {
  job: Job;
  test: ProofData["tests"][number]["test"];
  onWrite: (entries: readonly AnyEntry[]) => void;
}) {
  const [dry, setDry, clear] = useDraft<readonly number[]>(`leak-${job.id}-${test.code}`, []);
  const level = test.levels[dry.length];
  const cure = job.any_time.timers.find((t) => t.what === "cure");
  const now = useNow(cure !== undefined);
  const curing = cure ? leftOf(cure.rings_at, now) : null;
  const said = (minutes: readonly number[]) =>
    Object.fromEntries(minutes.map((value, k) => [test.levels[k]?.code ?? "", value]));
  const settle = (passed: boolean, values: Record<string, unknown>) => {
    setDry([]);
    clear();
    onWrite([entryOf("proved", { test: test.code, passed, values })]);
  };
  if (!level) return null;
  return (
    <div className="flex max-w-md flex-col gap-3">
      <ol aria-label="Levels" className="flex flex-col gap-1">
        {test.levels.map((l, k) => (
          <li key={l.code} className={k === dry.length ? "text-lg font-bold" : "text-ink-soft"}>
            {k + 1}. {l.name}
            {k < dry.length ? `: dry for ${String(dry[k])} min` : ""}
          </li>
        ))}
      </ol>
      <Dwell
        key={level.code}
        job={job}
        about={`proof:${test.code}:${level.code}`}
        usual={level.dwell_min}
        {...(curing && !curing.over
          ? { held: `The sealant cures for another ${curing.text}: no water on it before.` }
          : {})}
        onDry={(minutes) => {
          const kept = [...dry, minutes];
          if (kept.length === test.levels.length) settle(true, { dry_min: said(kept) });
          else setDry(kept);
        }}
        onDrips={(minutes) => {
          settle(false, { leaks_at: level.code, after_min: minutes, dry_min: said(dry) });
        }}
      />
      {dry.length > 0 ? (
        <Button
          weight="quiet"
          onClick={() => {
            setDry([]);
          }}
        >
          Begin again with the first level
        </Button>
      ) : null}
    </div>
  );
}
