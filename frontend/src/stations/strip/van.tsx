import type { Job, StripData } from "../../api/client";
import { type AnyEntry, entryOf } from "../../device/entries";
import { within } from "../../lib/format";
import { Button } from "../../ui/button";

/** What has to be in the van, and old beside new: is it the same? */
export function Van({
  job,
  plan,
  onWrite,
}: {
  job: Job;
  plan: StripData;
  onWrite: (entries: readonly AnyEntry[]) => void;
}) {
  const parts = plan.van.filter((p) => !p.consumable);
  const lacking = plan.tools.filter((t) => t.lacking);
  const used = plan.van.filter((p) => p.consumable);
  return (
    <details open={job.strip.steps.length === 0} className="flex flex-col gap-3">
      <summary className="min-h-12 cursor-pointer py-2 font-voice text-xl font-semibold">In the van</summary>
      <ul className="flex flex-col gap-3">
        {parts.map((part) => {
          const same = job.strip.compared.find((c) => c["part"] === part.code)?.["same"];
          return (
            <li key={part.code} className="border-b border-line pb-2">
              <p className="font-bold">
                {part.name}
                {part.optional ? ", if needed" : ""}
              </p>
              {part.tell_apart ? <p className="text-sm">{part.tell_apart}</p> : null}
              {part.if_wrong ? <p className="text-sm text-ink-soft">If wrong: {within(part.if_wrong)}.</p> : null}
              {same === undefined ? (
                <div className="flex gap-2 pt-1">
                  <Button
                    onClick={() => {
                      onWrite([entryOf("compared", { part: part.code, same: true })]);
                    }}
                  >
                    Same as the old one
                  </Button>
                  <Button
                    onClick={() => {
                      onWrite([entryOf("compared", { part: part.code, same: false })]);
                    }}
                  >
                    Differs
                  </Button>
                </div>
              ) : (
                <p className={same === true ? "text-seaglass" : "font-bold text-persimmon"}>
                  {same === true ? "compared: the same" : "compared: differs, do not fit it"}
                </p>
              )}
            </li>
          );
        })}
      </ul>
      {used.length > 0 ? <p>Used up: {used.map((p) => within(p.name)).join(", ")}.</p> : null}
      {plan.tools.length > 0 ? <p>Tools: {plan.tools.map((t) => within(t.name)).join("; ")}.</p> : null}
      {lacking.length > 0 ? (
        <p className="border-l-8 border-marigold pl-3 font-bold">
          Not in the shop, borrow before you go: {lacking.map((t) => within(t.name)).join("; ")}.
        </p>
      ) : null}
    </details>
  );
}
