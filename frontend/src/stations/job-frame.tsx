import { Link, Outlet, useLocation, useOutletContext, useParams } from "react-router";

import type { Job } from "../api/client";
import { useJob } from "../api/jobs";
import { useCatalogue } from "../api/knowledge";
import { when } from "../lib/format";
import { WalkStrip } from "../marks/line/walk-strip";
import { MeasuringProgress } from "../ui/measuring-progress";
import { Trouble, Waiting } from "../ui/trouble";
import { Bridges } from "./bridges";
import { Timers } from "./timers";
import { UndoLine } from "./undo-line";
import { Disagreements } from "./disagreements";
import { useForTheCellar } from "./use-cellar";
import { useChanges } from "./use-changes";
import { walkTags } from "./walk";

/** A job's frame: what machine this is, the walk strip, what is being measured, then the station. */
export function JobFrame() {
  const id = useParams()["jobId"] ?? "";
  const { job, data, error } = useJob(id);
  const catalogue = useCatalogue();
  const path = useLocation().pathname.split("/");
  const here = path[3] ?? "call";
  // One thing on one screen: on a phone the frame makes room for it.
  const frame = path.length > 4 ? "max-sm:hidden level:hidden" : "";
  useChanges(id, data?.revision);
  useForTheCellar(job);
  if (!job) {
    return (
      <main>
        <h1 className="pt-6 text-3xl">A job</h1>
        {error ? (
          <Trouble
            title={
              error instanceof TypeError
                ? "This job was not opened here lately, and there is no signal."
                : error.message
            }
            safe="Nothing is lost."
            next="Go back to the board and open the job again."
          />
        ) : (
          <Waiting what="Fetching the job" />
        )}
      </main>
    );
  }
  const { machine } = job;
  const layout = catalogue.data?.layouts.find((l) => l.code === machine.layout)?.name ?? machine.layout;
  const facts = [
    job.practice ? "practice, counts for nothing" : null,
    layout ?? "layout not known",
    machine.max_spin_rpm != null ? `${machine.max_spin_rpm.toFixed(0)}\u00a0rpm` : null,
    machine.age_years != null ? `${machine.age_years.toFixed(0)}\u00a0years` : null,
    when(job.created_at, new Date()),
  ].filter((fact) => fact !== null);
  const base = `/jobs/${id}`;
  return (
    <>
      <section aria-label="This job" className={`flex flex-wrap items-baseline gap-x-4 sm:flex-nowrap ${frame}`}>
        <p className="font-bold sm:max-w-[45%] sm:shrink-0">{job.place}</p>
        <p className="text-ink-soft level:hidden">{facts.join(", ")}</p>
        <nav aria-label="About this job" className="ml-auto flex shrink-0 gap-4">
          {job.machine_id ? (
            <Link
              to={`/machines/${job.machine_id}`}
              className="inline-flex min-h-12 items-center underline underline-offset-4"
            >
              this machine
            </Link>
          ) : null}
          <Link to={`${base}/history`} className="inline-flex min-h-12 items-center underline underline-offset-4">
            history
          </Link>
        </nav>
      </section>
      <div className={frame}>
        <WalkStrip tags={walkTags(job, here)} base={base} />
      </div>
      <Bridges job={job} />
      <Timers job={job} />
      <Disagreements job={job} />
      <MeasuringProgress job={job} stages={catalogue.data?.stages ?? []} />
      <main className="pt-6 level:pt-2">
        <Outlet context={job} />
      </main>
      <UndoLine jobId={id} />
    </>
  );
}

export function useFramedJob(): Job {
  return useOutletContext<Job>();
}
