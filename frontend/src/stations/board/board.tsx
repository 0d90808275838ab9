import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";

import type { Job } from "../../api/client";
import { isBusy, keys, useBoard, useCatalogue } from "../../api/queries";
import { upload, withQuery } from "../../api/upload";
import { percent, when } from "../../lib/format";
import { Button, ButtonLink } from "../../ui/button";
import { Trouble, Waiting } from "../../ui/trouble";
import { adviceShape } from "./advice";

export function Board() {
  const board = useBoard();
  const jobs = board.data?.jobs ?? [];
  return (
    <main>
      <div className="flex flex-wrap items-end gap-4 pb-5 pt-6">
        <h1 className="mr-auto text-3xl sm:text-4xl">{boardTitle(jobs)}</h1>
        <ImportCase />
        <ButtonLink to="/new" weight="strong">
          New job
        </ButtonLink>
      </div>
      {board.isError ? (
        <Trouble title={board.error.message} safe="Nothing is lost." next="It is tried again by itself." />
      ) : null}
      {board.isPending ? <Waiting what="Fetching the board" /> : null}
      {board.data && jobs.length === 0 ? (
        <p className="sheet p-6">No jobs yet. Start one with New job, or import a case that someone sent you.</p>
      ) : null}
      <ul className="grid gap-4 md:grid-cols-2">
        {jobs.map((job) => (
          <JobCard key={job.id} job={job} />
        ))}
      </ul>
    </main>
  );
}

function boardTitle(jobs: readonly Job[]): string {
  const open = jobs.filter((job) => job.call?.advice === "check_more" || job.call?.advice === "record_again").length;
  if (jobs.length === 0) return "The board";
  if (open === 0) return "Every machine has its call";
  return `${String(open)} of ${String(jobs.length)} machines still want a check`;
}

function JobCard({ job }: { job: Job }) {
  const catalogue = useCatalogue();
  const layout = catalogue.data?.layouts.find((l) => l.code === job.machine.layout)?.name ?? job.machine.layout;
  const leader = catalogue.data?.faults.find((f) => f.code === job.call?.leader)?.name;
  const shape = adviceShape(isBusy(job.analysis) ? "busy" : (job.call?.advice ?? "none"));
  return (
    <li>
      <Link
        to={`/jobs/${String(job.id)}/${job.recordings.length > 0 ? "call" : "spin"}`}
        className="sheet grid h-full grid-cols-[auto_1fr_auto] gap-x-4 p-4 hover:border-ink"
      >
        <span className={`row-span-3 w-3 self-stretch ${shape.bar}`} aria-hidden="true" />
        <p className="font-bold leading-tight">{job.place}</p>
        <p className="text-right font-mono text-xl font-bold">
          {job.call?.leader_probability != null && job.call.advice !== "record_again"
            ? percent(job.call.leader_probability)
            : ""}
        </p>
        <p className="col-span-2 text-sm text-ink-soft">
          {layout}, {when(job.changed_at, new Date())}
        </p>
        <p className="col-span-2 pt-2">
          <span className="font-voice text-lg font-semibold">
            {job.call?.advice === "record_again" ? "Not heard yet" : (leader ?? "No call yet")}
          </span>
          <span className="text-ink-soft"> · {shape.words}</span>
        </p>
      </Link>
    </li>
  );
}

function ImportCase() {
  const input = useRef<HTMLInputElement>(null);
  const [said, setSaid] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const send = async (file: File) => {
    setBusy(true);
    setSaid(null);
    try {
      const job = await upload<Job>({
        url: withQuery("/api/cases", { name: file.name }),
        file,
        onProgress: () => undefined,
      }).done;
      await queries.invalidateQueries({ queryKey: keys.jobs() });
      await navigate(`/jobs/${String(job.id)}/call`);
    } catch (error) {
      setSaid(error instanceof Error ? error.message : "The case could not be imported.");
    } finally {
      setBusy(false);
    }
  };
  return (
    <div>
      <input
        ref={input}
        type="file"
        accept=".zip"
        className="sr-only"
        aria-label="Case to import, a zip file"
        tabIndex={-1}
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) void send(file);
        }}
      />
      <Button disabled={busy} onClick={() => input.current?.click()}>
        {busy ? "Importing …" : "Import a case"}
      </Button>
      {said ? <Trouble title={said} safe="Nothing was stored." /> : null}
    </div>
  );
}
