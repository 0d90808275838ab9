import { Outlet, useLocation, useOutletContext, useParams } from "react-router";

import type { Job } from "../api/client";
import { useCatalogue, useJob } from "../api/queries";
import { when } from "../lib/format";
import { WalkStrip } from "../marks/walk-strip";
import { AnalysisProgress } from "../ui/analysis-progress";
import { Trouble, Waiting } from "../ui/trouble";
import { walkTags } from "./walk";

/** A job's frame: what machine this is, the walk strip, the running analysis, then the station. */
export function JobFrame() {
  const id = Number(useParams()["jobId"]);
  const job = useJob(id);
  const catalogue = useCatalogue();
  const here = useLocation().pathname.split("/")[3] ?? "call";
  if (job.isError)
    return (
      <Trouble title={job.error.message} safe="Nothing is lost." next="Go back to the board and open the job again." />
    );
  if (!job.data) return <Waiting what="Fetching the job" />;
  const machine = job.data.machine;
  const layout = catalogue.data?.layouts.find((l) => l.code === machine.layout)?.name ?? machine.layout;
  const facts = [
    layout,
    machine.max_spin_rpm != null ? `${machine.max_spin_rpm.toFixed(0)} rpm` : null,
    machine.age_years != null ? `${machine.age_years.toFixed(0)} years` : null,
    when(job.data.created_at, new Date()),
  ].filter((fact) => fact !== null);
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-4">
        <p className="font-bold">{job.data.place}</p>
        <p className="text-ink-soft">{facts.join(", ")}</p>
      </div>
      <WalkStrip tags={walkTags(job.data, here)} base={`/jobs/${String(id)}`} />
      <AnalysisProgress job={job.data} stages={catalogue.data?.stages ?? []} />
      <main className="pt-6">
        <Outlet context={job.data} />
      </main>
    </>
  );
}

export function useFramedJob(): Job {
  return useOutletContext<Job>();
}
