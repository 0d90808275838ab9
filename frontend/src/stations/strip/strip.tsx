import { useEffect, useState } from "react";
import { Link } from "react-router";

import { type Job, ServerSaid, type StripData } from "../../api/client";
import { useStrip } from "../../api/repairs";
import type { AnyEntry } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { within } from "../../lib/format";
import { moneyRange } from "../../lib/money";
import { PaperLinks } from "../../ui/paper-links";
import { Fetching } from "../../ui/fetching";
import { Trouble } from "../../ui/trouble";
import { hours } from "../cost/option-strip";
import { agreedPaths } from "../cost/agreed";
import { useFramedJob } from "../job-frame";
import { Gates } from "./gates";
import { Stands } from "./stands";
import { StepView } from "./step-view";
import { minutesLeft, nextStep, placed, type Placed, stateOf } from "./strip-state";
import { Van } from "./van";

const PARTS = [
  { part: "off", title: "Off" },
  { part: "fit", title: "Fit" },
  { part: "on", title: "Back" },
] as const;

/** Taking it apart and putting it back: one step in view, the path beside it, the gates before power below. */
export function Strip() {
  const job = useFramedJob();
  const strip = useStrip(job.id, job.seq, agreedPaths(job));
  if (!strip.data) {
    if (strip.error instanceof ServerSaid) {
      return <Trouble title={strip.error.message} safe="Nothing is lost." next="Go to Story and say what it is." />;
    }
    return <Fetching what="the plan" failed={strip.isError} />;
  }
  return <Planned job={job} plan={strip.data} />;
}

function Planned({ job, plan }: { job: Job; plan: StripData }) {
  const { write, writing } = useWrite(job.id);
  const [chosen, setChosen] = useState<string | null>(null);
  const steps = placed(plan);
  const next = nextStep(job, steps);
  const shown = steps.find((s) => s.key === chosen) ?? next;
  const say = (entries: readonly AnyEntry[]) => {
    void write(entries).then((kept) => {
      // Done: what comes next comes into view.
      if (kept && entries.some(goesOn)) setChosen(null);
    });
  };
  useKnock(() => {
    document.querySelector<HTMLButtonElement>("[data-knock]")?.click();
  });
  const gate = plan.gates.find(
    (g) => g.code === "no_way_back" && shown?.planned.step?.endsWith(`/${g.steps[0] ?? ""}`),
  );
  return (
    <div className="grid grid-cols-1 items-start gap-6 lg:grid-cols-[16rem_1fr_18rem]">
      <header className="lg:col-span-3">
        <h1 className="text-[1.6rem] sm:text-[2rem]">{plan.paths.map((p) => p.name).join(" + ")}</h1>
        <p className="pt-1">
          {hours({ low: plan.least_minutes, high: plan.most_minutes })} in all, {minutesLeft(job, steps).toFixed(0)} min
          left without trouble
          {plan.tippings > 0 ? `, tipped ${plan.tippings === 1 ? "once" : `${String(plan.tippings)} times`}` : ""}
          {plan.people > 1 ? `, ${String(plan.people)} people` : ""}.
        </p>
        {plan.agreed ? null : (
          <p className="pt-1 font-bold">
            The customer has not said yes to this.{" "}
            <Link
              className="inline-flex min-h-11 items-center underline underline-offset-4"
              to={`/jobs/${job.id}/cost`}
            >
              Ask first
            </Link>
          </p>
        )}
        <Moved job={job} plan={plan} />
        <Stands job={job} plan={plan} onWrite={say} />
        {plan.unstack ? (
          <p className="hazard sheet my-2 py-3 pr-3">
            The dryer comes off first: two people. A gas line is moved by a licensed fitter only.
          </p>
        ) : null}
      </header>
      <Path
        job={job}
        steps={steps}
        shown={shown}
        onChoose={(step) => {
          setChosen(step.key);
        }}
      />
      <div className="order-first min-w-0 lg:order-none">
        {shown ? (
          <StepView
            key={shown.key}
            job={job}
            layout={plan.layout}
            placed={shown}
            gate={gate?.missing ?? ""}
            onWrite={say}
          />
        ) : (
          <p className="text-xl">Everything is closed. What is left stands under “before power returns”.</p>
        )}
        {writing.status === "not_kept" ? (
          <Trouble title="This device could not keep that." safe="What was kept before is still there." />
        ) : null}
        {writing.status === "refused" ? <Trouble title={writing.refusal.message} safe="Nothing else changed." /> : null}
      </div>
      <div className="flex flex-col gap-6">
        <Gates job={job} plan={plan} steps={steps} />
        <Van job={job} plan={plan} onWrite={say} />
        <PaperLinks name="Job sheet as PDF" href={`/api/jobs/${job.id}/job-sheet.pdf`} />
      </div>
    </div>
  );
}

/** The call has moved since: what else would be mended is a question for the customer, never done by itself. */
function Moved({ job, plan }: { job: Job; plan: StripData }) {
  if (!plan.agreed || plan.unmended.length === 0) return null;
  const { also } = plan;
  return (
    <div className="mt-2 border-l-8 border-marigold pl-4">
      <p>
        <strong>The call now says: {plan.unmended.map(within).join(" and ")}.</strong> This plan does not mend that.
      </p>
      {also ? (
        <p>
          {also.names.join(" and ")} too, while it is open: about <strong>{moneyRange(also.more)}</strong> and{" "}
          {also.minutes.low.toFixed(0)} to {also.minutes.high.toFixed(0)} minutes more.
        </p>
      ) : null}
      <p>
        The customer is asked before anything else is opened:{" "}
        <Link className="inline-flex min-h-12 items-center underline underline-offset-4" to={`/jobs/${job.id}/cost`}>
          put it to them
        </Link>
        .
      </p>
    </div>
  );
}

// So many of the steps that are behind stay in sight.
const KEPT_BEHIND = 2;

/** The path of steps: what is behind, where we are, what lies ahead. */
function Path({
  job,
  steps,
  shown,
  onChoose,
}: {
  job: Job;
  steps: readonly Placed[];
  shown: Placed | null;
  onChoose: (step: Placed) => void;
}) {
  const [all, setAll] = useState(false);
  return (
    <nav aria-label="Steps" className="flex flex-col gap-2">
      {PARTS.map(({ part, title }) => {
        const own = steps.filter((s) => s.part === part);
        if (own.length === 0) return null;
        const done = own.filter((s) => stateOf(job, s) !== "open").length;
        const first = own.findIndex((s) => stateOf(job, s) === "open" || stateOf(job, s) === "stuck");
        const from = all ? 0 : Math.max(0, (first < 0 ? own.length : first) - KEPT_BEHIND);
        return (
          <details key={part} open={own.some((s) => s === shown)}>
            <summary className="min-h-12 cursor-pointer py-2 text-lg font-bold">
              {title}{" "}
              <span className="font-mono font-normal">
                {done}/{own.length}
              </span>
            </summary>
            {from > 0 ? (
              <button
                type="button"
                className="min-h-12 px-3 underline underline-offset-4"
                onClick={() => {
                  setAll(true);
                }}
              >
                {from} before
              </button>
            ) : null}
            <ol className="border-l-4 border-ink">
              {own.slice(from).map((step) => (
                <StepLine
                  key={step.key}
                  step={step}
                  state={stateOf(job, step)}
                  here={step === shown}
                  onChoose={() => {
                    onChoose(step);
                  }}
                />
              ))}
            </ol>
          </details>
        );
      })}
    </nav>
  );
}

const MARKS = { open: "", done: "✓", skipped: "–", stuck: "!" };

function StepLine({
  step,
  state,
  here,
  onChoose,
}: {
  step: Placed;
  state: keyof typeof MARKS;
  here: boolean;
  onChoose: () => void;
}) {
  return (
    <li>
      <button
        type="button"
        aria-current={here ? "step" : undefined}
        className={`flex min-h-12 w-full items-center gap-2 px-3 text-left ${here ? "bg-marigold font-bold text-on-marigold" : state === "open" ? "" : "text-ink-soft"}`}
        onClick={onChoose}
      >
        <span className="w-4 font-mono" aria-hidden="true">
          {MARKS[state]}
        </span>
        <span>
          {step.planned.name}
          {state === "open" ? null : <span className="sr-only">, {state}</span>}
        </span>
      </button>
    </li>
  );
}

/** Whether an entry says that a step is behind: what is stuck stays in view. */
function goesOn(entry: AnyEntry): boolean {
  return entry.kind === "note" || (entry.kind === "step" && entry.body?.state !== "stuck");
}

/** A knuckle or an elbow on Enter says "done", as long as nothing else is in hand. */
function useKnock(onKnock: () => void): void {
  useEffect(() => {
    const knock = (event: KeyboardEvent) => {
      if (event.key === "Enter" && event.target === document.body) onKnock();
    };
    window.addEventListener("keydown", knock);
    return () => {
      window.removeEventListener("keydown", knock);
    };
  });
}
