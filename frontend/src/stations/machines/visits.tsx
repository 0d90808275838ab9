import { Link } from "react-router";

import type { Catalogue, Job, Machine } from "../../api/client";
import { useMachine } from "../../api/machines";
import { percent, when, words } from "../../lib/format";

/** Visits to one machine: what each was called, how it ended, and what was really found. */
export function Visits({
  visits,
  found,
  catalogue,
}: {
  visits: Machine["visits"];
  found: Machine["found"];
  catalogue: Catalogue | undefined;
}) {
  const faultName = (code: string) => catalogue?.faults.find((f) => f.code === code)?.name ?? code;
  return (
    <ol className="flex flex-col gap-2">
      {visits.map((visit) => {
        const there = found[visit.id];
        return (
          <li key={visit.id}>
            <Link
              to={`/jobs/${visit.id}/call`}
              className="sheet flex min-h-12 flex-wrap gap-x-4 px-4 py-3 hover:border-ink"
            >
              <span className="font-bold">{when(visit.created_at, new Date())}</span>
              <span className="mr-auto">
                {visit.call
                  ? `called ${faultName(visit.call.leader).toLowerCase()}, ${percent(visit.call.leader_probability)}`
                  : "no call"}
                {there ? (
                  <span className="block">
                    found: <strong>{there.map(faultName).join(", ").toLowerCase()}</strong>
                  </span>
                ) : null}
              </span>
              {visit.closed ? <span className="text-ink-soft">{words(visit.closed)}</span> : null}
            </Link>
          </li>
        );
      })}
    </ol>
  );
}

/** What earlier visits to this job's machine found, before anything is asked anew; nothing where there were none. */
export function EarlierVisits({ job, catalogue }: { job: Job; catalogue: Catalogue }) {
  // One that was opened without a signal is in no register yet.
  return job.number === 0 ? null : <Earlier job={job} catalogue={catalogue} />;
}

function Earlier({ job, catalogue }: { job: Job; catalogue: Catalogue }) {
  const machine = useMachine(job.machine_id);
  const earlier = machine.data?.visits.filter((visit) => visit.id !== job.id) ?? [];
  if (!machine.data || earlier.length === 0) return null;
  return (
    <section aria-label="Earlier visits to this machine" className="pb-6">
      <h2 className="pb-2 text-xl">We have met this machine</h2>
      <Visits visits={earlier.slice(0, 4)} found={machine.data.found} catalogue={catalogue} />
    </section>
  );
}
