import { useState } from "react";
import type { JobShort } from "../../api/client";
import { useBoard } from "../../api/jobs";
import { WaitLine } from "../../marks/line/wait-line";
import { ButtonLink } from "../../ui/button";
import { Fetching } from "../../ui/fetching";
import { groups, type Wait, WAITS, wantsAHand } from "./groups";
import { Found, LookFor } from "./found-jobs";
import { ImportCase } from "./import-case";
import { JobGroup } from "./job-cards";

export function Board() {
  const board = useBoard();
  const { jobs } = board;
  const [wait, setWait] = useState<Wait | null>(null);
  const [q, setQ] = useState("");
  const [layout, setLayout] = useState("");
  const waiting = board.data?.waiting;
  const tags = WAITS.map(({ wait: code, short }) => ({
    wait: code,
    words: short,
    count: code === "nothing" ? null : (waiting?.[code] ?? 0),
  }));
  const wish = { q, waits_for: wait, layout: layout === "" ? null : layout };
  const looking = q.trim() !== "" || wait !== null || layout !== "";
  return (
    <main>
      <div className="flex flex-wrap items-end gap-4 pb-3 pt-6">
        <h1 className="mr-auto text-3xl sm:text-4xl">{boardTitle(jobs)}</h1>
        <ImportCase />
        <ButtonLink to="/new" weight="strong">
          New job
        </ButtonLink>
      </div>
      {board.data && jobs.length > 0 ? (
        <>
          <WaitLine
            tags={tags.filter((tag) => tag.count !== 0)}
            chosen={wait}
            onChoose={(chosen) => {
              setWait(WAITS.find((w) => w.wait === chosen)?.wait ?? null);
            }}
          />
          <LookFor q={q} onQ={setQ} layout={layout} onLayout={setLayout} />
        </>
      ) : null}
      {board.data || jobs.length > 0 ? null : <Fetching what="the board" failed={board.isError} />}
      {board.data && jobs.length === 0 ? (
        <p className="sheet p-6">No jobs yet. Start one with New job, or import a case that someone sent you.</p>
      ) : null}
      {looking ? (
        <Found wish={wish} here={jobs} />
      ) : (
        groups(jobs, dayOf(new Date())).map((group) => (
          <JobGroup
            key={group.name}
            group={group}
            older={group.wait === null ? 0 : (waiting?.[group.wait] ?? 0) - group.jobs.length}
            onOlder={() => {
              setWait(group.wait);
              window.scrollTo({ top: 0 });
            }}
          />
        ))
      )}
      {jobs.some((job) => job.due_on !== null) ? (
        <a className="inline-flex min-h-12 items-center underline underline-offset-4" href="/api/follow-ups.ics">
          What is due, as a calendar file
        </a>
      ) : null}
    </main>
  );
}

/** The day by this device's clock, as the server writes days. */
function dayOf(moment: Date): string {
  const two = (value: number) => String(value).padStart(2, "0");
  return `${String(moment.getFullYear())}-${two(moment.getMonth() + 1)}-${two(moment.getDate())}`;
}

function boardTitle(jobs: readonly JobShort[]): string {
  const open = jobs.filter(wantsAHand).length;
  const standing = jobs.filter((job) => job.closed === null).length;
  if (jobs.length === 0) return "The board";
  if (open === 0) return "Every machine has its call";
  return `${String(open)} of ${String(standing)} machines still want a check`;
}
