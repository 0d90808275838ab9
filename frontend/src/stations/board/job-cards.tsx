import { useState } from "react";
import { Link } from "react-router";
import type { JobShort } from "../../api/client";
import { isBusy } from "../../api/jobs";
import { useCatalogue } from "../../api/knowledge";
import { percent, when, words } from "../../lib/format";
import { leftOf, useNow } from "../../lib/now";
import { Button } from "../../ui/button";
import { adviceShape } from "./advice";
import { type Group } from "./groups";

export function JobGroup({ group, older, onOlder }: { group: Group; older: number; onOlder: () => void }) {
  const [all, setAll] = useState(false);
  const rest = group.first === null ? 0 : group.jobs.length - group.first;
  const shown = all || group.first === null ? group.jobs : group.jobs.slice(0, group.first);
  return (
    <section aria-label={group.name} className="pb-6">
      <h2 className="pb-2 text-xl">{group.name}</h2>
      <ul className={group.rows ? "flex flex-col gap-2" : "grid gap-4 md:grid-cols-2"}>
        {shown.map((job) => (group.rows ? <JobRow key={job.id} job={job} /> : <JobCard key={job.id} job={job} />))}
      </ul>
      {rest > 0 ? (
        <div className="flex flex-wrap items-center gap-x-6">
          <Button
            weight="quiet"
            aria-expanded={all}
            onClick={() => {
              setAll(!all);
            }}
          >
            {all ? "Only the last ones" : `${String(rest)} more`}
          </Button>
          {older > 0 && all ? (
            <Button weight="quiet" onClick={onOlder}>
              {older} older
            </Button>
          ) : null}
        </div>
      ) : null}
      {group.wait === "nothing" ? (
        <Link to="/record" className="inline-flex min-h-12 items-center underline underline-offset-4">
          How often we were right
        </Link>
      ) : null}
    </section>
  );
}

function whereTo(job: JobShort): string {
  return `/jobs/${job.id}/${job.recording_count > 0 ? "call" : "spin"}`;
}

function useWords(job: JobShort) {
  const catalogue = useCatalogue();
  const kind = catalogue.data?.layouts.find((l) => l.code === job.layout)?.name ?? job.layout ?? "layout not known";
  const layout = job.ours ? `${kind}, ours` : kind;
  const leader = catalogue.data?.faults.find((f) => f.code === job.call?.leader)?.name;
  const shape = adviceShape(isBusy(job.measuring) ? "busy" : (job.call?.advice ?? "none"));
  const sure = job.call && job.call.advice !== "record_again" ? percent(job.call.leader_probability) : "";
  const called = job.call?.advice === "record_again" ? "Not heard yet" : (leader ?? "No call yet");
  return { layout, called, shape, sure };
}

/** What wants a hand now, large enough to be read at arm's length. */
function JobCard({ job }: { job: JobShort }) {
  const { layout, called, shape, sure } = useWords(job);
  return (
    <li>
      <Link to={whereTo(job)} className="sheet grid h-full grid-cols-[auto_1fr_auto] gap-x-4 p-4 hover:border-ink">
        <span className={`row-span-4 w-3 self-stretch ${shape.bar}`} aria-hidden="true" />
        <p className="font-bold leading-tight">{job.place || "No place told"}</p>
        <p className="whitespace-nowrap text-right font-mono text-xl font-bold">{sure}</p>
        <p className="col-span-2 text-sm text-ink-soft">
          {layout}, {when(job.created_at, new Date())}
          {job.number === 0 ? ", waits for a signal" : ""}
        </p>
        <p className="col-span-2 pt-2">
          <span className="font-voice text-lg font-semibold">{called}</span>
          <span className="text-ink-soft"> · {shape.words}</span>
        </p>
        {job.bridged ? <p className="hazard col-span-2 py-1 font-bold">An interlock is bridged</p> : null}
        <Ringing job={job} />
        <Due job={job} />
      </Link>
    </li>
  );
}

/** What has its call, a line each. */
export function JobRow({ job }: { job: JobShort }) {
  const { layout, called, shape, sure } = useWords(job);
  return (
    <li>
      <Link
        to={whereTo(job)}
        className="sheet grid min-h-12 grid-cols-[auto_1fr_auto] items-center gap-x-4 py-2 pl-2 pr-4 hover:border-ink sm:grid-cols-[auto_minmax(0,1fr)_minmax(0,1fr)_7rem]"
      >
        <span className={`row-span-2 w-3 self-stretch sm:row-[1/3] ${shape.bar}`} aria-hidden="true" />
        <span className="leading-tight">
          <span className="block font-bold">{job.place || "No place told"}</span>
          <span className="text-sm text-ink-soft">
            {layout}, {when(job.created_at, new Date())}
          </span>
        </span>
        <span className="col-start-2 sm:col-start-3">
          {called} <span className="text-ink-soft">· {job.closed === null ? shape.words : words(job.closed)}</span>
        </span>
        <span className="col-start-3 row-start-1 whitespace-nowrap text-right font-mono font-bold sm:col-start-4">
          {sure}
        </span>
        {job.bridged ? <span className="hazard col-span-full mt-1 py-1 font-bold">An interlock is bridged</span> : null}
        <Ringing job={job} />
        <Due job={job} />
      </Link>
    </li>
  );
}

/** When somebody comes back to it. */
function Due({ job }: { job: JobShort }) {
  if (job.due_on === null) return null;
  const due = new Date(`${job.due_on}T12:00:00`);
  const over = due.getTime() < Date.now();
  return (
    <span
      className={`col-[2/-1] mt-1 justify-self-start ${over ? "bg-marigold px-3 py-1 font-bold text-on-marigold" : ""}`}
    >
      {over ? "was due" : "back on"} {due.toLocaleDateString(undefined, { day: "numeric", month: "short" })}
    </span>
  );
}

/** A wait that runs at this job, or is over. */
function Ringing({ job }: { job: JobShort }) {
  const now = useNow(job.rings_at !== null);
  if (job.rings_at === null) return null;
  const { over, text } = leftOf(job.rings_at, now);
  return (
    <span
      className={`col-[2/-1] mt-1 justify-self-start border-2 border-ink px-3 py-1 font-bold ${over ? "bg-marigold text-on-marigold" : ""}`}
    >
      {over ? "a wait is over" : "waits"} {over ? null : <span className="font-mono">{text}</span>}
    </span>
  );
}
