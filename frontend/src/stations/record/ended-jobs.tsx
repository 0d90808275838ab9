import { useState } from "react";
import { Link } from "react-router";
import type { RecordData } from "../../api/client";
import { useLeaveOut } from "../../api/shop";
import { percent, words } from "../../lib/format";
import { Button } from "../../ui/button";
import { TextField } from "../../ui/field";
import { Trouble } from "../../ui/trouble";

type Ended = RecordData["jobs"][number];

export function Jobs({ jobs }: { jobs: readonly Ended[] }) {
  const [all, setAll] = useState(false);
  if (jobs.length === 0) return null;
  return (
    <section aria-label="Ended jobs">
      <h2 className="pb-2 text-2xl">The jobs behind it</h2>
      <ul>
        {jobs.slice(0, all ? jobs.length : 10).map((job) => (
          <EndedJob key={job.job} job={job} />
        ))}
      </ul>
      {jobs.length > 10 ? (
        <Button
          weight="quiet"
          aria-expanded={all}
          onClick={() => {
            setAll(!all);
          }}
        >
          {all ? "Only the last ten" : `${String(jobs.length - 10)} earlier ones`}
        </Button>
      ) : null}
    </section>
  );
}

function EndedJob({ job }: { job: Ended }) {
  const leaveOut = useLeaveOut();
  const [asked, setAsked] = useState(false);
  const [why, setWhy] = useState("");
  const verdict = job.right === null ? "not known" : job.right ? "right" : "wrong";
  return (
    <li className="border-t border-line py-2">
      <div className="flex flex-wrap items-center justify-between gap-x-4">
        <p>
          <Link to={`/jobs/${job.job}/call`} className="inline-flex min-h-12 items-center font-mono underline">
            {new Date(`${job.day}T12:00:00`).toLocaleDateString()}
          </Link>{" "}
          called {job.called.toLowerCase()} {percent(job.chance)}, {words(job.outcome)}
          {job.found === null ? "" : `, found ${job.found.join(" and ").toLowerCase()}`}: <strong>{verdict}</strong>
          {job.left_out === null ? "" : ` (left out: ${job.left_out})`}
        </p>
        <Button
          onClick={() => {
            if (job.left_out === null) setAsked(!asked);
            else leaveOut.mutate({ job: job.job, why: null });
          }}
        >
          {job.left_out === null ? "Leave it out" : "Count it again"}
        </Button>
      </div>
      {leaveOut.isError ? <Trouble title={leaveOut.error.message} safe="It still counts as it did." /> : null}
      {asked && job.left_out === null ? (
        <form
          className="flex flex-wrap items-end gap-3 pt-2"
          onSubmit={(event) => {
            event.preventDefault();
            if (why.trim()) leaveOut.mutate({ job: job.job, why: why.trim() });
          }}
        >
          <TextField label="Why does it not count?" value={why} onChange={setWhy} />
          <Button type="submit" weight="strong" disabled={!why.trim()}>
            Leave it out
          </Button>
        </form>
      ) : null}
    </li>
  );
}
