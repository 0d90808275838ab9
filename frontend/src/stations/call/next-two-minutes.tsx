import type { Job, Result } from "../../api/client";
import { useDecision } from "../../api/calls";
import { useCatalogue } from "../../api/knowledge";
import { percent, within, words } from "../../lib/format";
import { ButtonLink } from "../../ui/button";
import { stepNow } from "./step-now";
import { withoutAccess } from "./without-access";

/** What is supposed: that a check came out so, or that the shop's own jobs had taught nothing. */
export interface Supposed {
  check?: string;
  name: string;
  level: string;
  taught?: boolean;
}

/** What is said where nothing is opened. */
const CLOSED = {
  see_to: ["See to it from outside", "Nothing is opened for it. Some minutes, then let it spin once more and listen."],
  leave: ["Leave it closed", "No fault that a repair would mend is likely enough to be worth its hours."],
  refer: [
    "Hand it on",
    "Not sure enough to open it, and no check left is worth its minutes. Whoever takes it on wants what was found.",
  ],
} as const;

/** The one thing worth doing now, why, how long it takes, and what it would change. */
export function NextTwoMinutes({
  job,
  result,
  supposed,
  suppose,
}: {
  job: Job;
  result: Result;
  supposed: Supposed | null;
  suppose: (supposed: Supposed | null) => void;
}) {
  const catalogue = useCatalogue();
  const faultName = (code: string) => catalogue.data?.faults.find((f) => f.code === code)?.name.toLowerCase() ?? code;
  const decision = useDecision(job.id, job.call?.weighed ?? 0, {});
  const noSpin = !job.recordings.some((r) => r.test === "spin");
  const next = result.next_checks[0];
  const base = `/jobs/${job.id}`;
  const step = stepNow(result, decision.data, !noSpin);
  if (step === "record") {
    return (
      <Card
        title={noSpin ? "Record a spin test" : "Record the spin again"}
        text="Drum empty, from rest to rest. It tells bearings, suspension, spider and belt apart. Some minutes, with laying the phone down."
      >
        <ButtonLink to={`${base}/spin`} weight="strong">
          Record
        </ButtonLink>
      </Card>
    );
  }
  if (step === "open") {
    return (
      <Card
        title="Unplug it, then open it"
        text="Prove it dead, shut both taps, drain first. Springs are stored energy, edges cut. A quick look at what the call names, before any part is ordered, costs a minute."
      >
        <div className="flex flex-wrap gap-3">
          <ButtonLink to={`${base}/cost`} weight="strong">
            What it takes
          </ButtonLink>
          <ButtonLink to={`${base}/strip`}>Open it step by step</ButtonLink>
        </div>
      </Card>
    );
  }
  if (step === "see_to" || step === "leave" || step === "refer") {
    const [title, text] = CLOSED[step];
    return (
      <Card title={title} text={text}>
        <div className="flex flex-wrap gap-3">
          <ButtonLink to={`${base}/cost`} weight="strong">
            What to tell the customer
          </ButtonLink>
          {next ? (
            <ButtonLink to={`${base}/hands/${next.check}`}>
              Or: {within(next.name)}, {next.minutes.toFixed(0)} min
            </ButtonLink>
          ) : null}
          {step === "refer" ? (
            <a
              className="inline-flex min-h-12 items-center underline underline-offset-4"
              href={`/api/jobs/${job.id}/case.zip`}
            >
              The whole case as a file
            </a>
          ) : null}
        </div>
      </Card>
    );
  }
  if (!next) return <Card title="Nothing left to check" text="No check that is left would change the odds." />;
  const outcomes = next.outcomes.filter((o) => o.chance > 0.02);
  return (
    <Card title={next.name} text={`${next.minutes.toFixed(0)} min, ${next.access_words}. ${withoutAccess(next.how)}`}>
      <p className="pb-1 text-sm font-bold">What it would change: tap to see</p>
      <ul className="grid gap-x-6 gap-y-1 pb-4 text-sm sm:max-lg:grid-cols-2">
        {outcomes.map((o) => {
          const isSupposed = supposed?.check === next.check && supposed.level === o.level;
          return (
            <li key={o.level}>
              <button
                type="button"
                aria-pressed={isSupposed}
                className="min-h-12 w-full border-b-2 border-on-marigold/30 text-left aria-pressed:font-bold"
                onClick={() => {
                  suppose(isSupposed ? null : { check: next.check, name: next.name, level: o.level });
                }}
              >
                <span className="underline underline-offset-4">{words(o.level)}</span>: {faultName(o.leader)}{" "}
                {percent(o.leader_probability)}
              </button>
            </li>
          );
        })}
      </ul>
      <div className="flex flex-wrap gap-3">
        <ButtonLink to={`${base}/hands/${next.check}`} weight="strong">
          Measure
        </ButtonLink>
        {noSpin ? <ButtonLink to={`${base}/spin`}>Or record a spin test</ButtonLink> : null}
      </div>
    </Card>
  );
}

function Card({ title, text, children }: { title: string; text: string; children?: React.ReactNode }) {
  return (
    <section
      aria-label="Next two minutes"
      className="rounded-[2px_22px_2px_2px] bg-marigold p-5 text-on-marigold [--ink:#12343b] [--on-ink:#edf2ef]"
    >
      <p className="text-sm">next two minutes</p>
      <h2 className="pb-2 text-xl">{title}</h2>
      <p className="pb-3">{text}</p>
      {children}
    </section>
  );
}
