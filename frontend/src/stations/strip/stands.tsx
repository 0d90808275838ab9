import type { Job, StripData } from "../../api/client";
import { type AnyEntry, type Body, entryOf } from "../../device/entries";
import { OneChip } from "../../ui/chips";

const QUESTIONS: Readonly<Record<string, string>> = {
  posture: "How does it stand?",
  people: "How many hands?",
  exit: "How does the tub come out?",
  panel: "What holds the panel?",
  seam: "What joins the halves?",
};

/** How the machine is gone at: only what changes this plan is asked, each answer with the minutes that it takes. */
export function Stands({
  job,
  plan,
  onWrite,
}: {
  job: Job;
  plan: StripData;
  onWrite: (entries: readonly AnyEntry[]) => void;
}) {
  const asked = [...new Set(plan.ways.map((way) => way.question))];
  if (asked.length === 0) return null;
  const said = plan.ways.filter((way) => way.chosen).map((way) => way.name);
  const told = (question: string): string => {
    const answer = job.strip.stands[question];
    return answer == null ? (plan.ways.find((w) => w.question === question && w.chosen)?.answer ?? "") : String(answer);
  };
  return (
    <details className="mt-2">
      <summary className="min-h-12 cursor-pointer content-center">
        <span className="font-bold">How it stands</span>{" "}
        <span className="text-ink-soft">{said.join(", ").toLowerCase() || "not said"}</span>
      </summary>
      <div className="flex flex-col gap-4 pb-3">
        {asked.map((question) => {
          const ways = plan.ways.filter((way) => way.question === question);
          const chosen = ways.find((way) => way.answer === told(question));
          return (
            <fieldset key={question}>
              <legend className="pb-1 font-bold">{QUESTIONS[question] ?? question}</legend>
              <OneChip
                label={QUESTIONS[question] ?? question}
                options={ways.map((way) => ({
                  value: way.answer,
                  label: `${way.name}, ${way.minutes.toFixed(0)} min${way.tippings > 0 ? `, tipped ${String(way.tippings)}×` : ""}`,
                }))}
                value={told(question)}
                onChange={(answer) => {
                  if (answer === "") return;
                  const value = question === "people" ? Number(answer) : answer;
                  onWrite([entryOf("stands", { [question]: value } as Body<"stands">)]);
                }}
              />
              {chosen?.tell ? <p className="pt-1 text-sm text-ink-soft">{chosen.tell}</p> : null}
            </fieldset>
          );
        })}
      </div>
    </details>
  );
}
