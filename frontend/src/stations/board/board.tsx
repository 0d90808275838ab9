import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";

import type { Job, JobShort } from "../../api/client";
import { isBusy, useBoard } from "../../api/jobs";
import { keys } from "../../api/keys";
import { useCatalogue } from "../../api/knowledge";
import { useFound, type Wish } from "../../api/found";
import { upload, withQuery } from "../../api/upload";
import { percent, when, words } from "../../lib/format";
import { useSettled } from "../../lib/looking-for";
import { leftOf, useNow } from "../../lib/now";
import { WaitLine } from "../../marks/line/wait-line";
import { Button, ButtonLink } from "../../ui/button";
import { Fetching } from "../../ui/fetching";
import { ChoiceField, TextField } from "../../ui/field";
import { Trouble } from "../../ui/trouble";
import { adviceShape } from "./advice";
import { type Group, groups, type Wait, WAITS, wantsAHand } from "./groups";
import { matches } from "./looking";

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

function LookFor({
  q,
  onQ,
  layout,
  onLayout,
}: {
  q: string;
  onQ: (q: string) => void;
  layout: string;
  onLayout: (layout: string) => void;
}) {
  const catalogue = useCatalogue();
  return (
    <search className="grid grid-cols-[1fr_9rem] gap-3 pb-5 sm:grid-cols-[1fr_18rem]">
      <TextField
        label="Look for"
        type="search"
        placeholder="place, person, symptom, part, a word of a note"
        value={q}
        onChange={onQ}
      />
      <ChoiceField
        label="Kind of machine"
        value={layout}
        empty="every kind"
        options={(catalogue.data?.layouts ?? []).map((l) => ({ value: l.code, label: l.name }))}
        onChange={onLayout}
      />
    </search>
  );
}

/** What was looked for, a page at a time; without a signal, what this device knows of it. */
function Found({ wish, here }: { wish: Wish; here: readonly JobShort[] }) {
  const settled = useSettled(wish);
  const found = useFound(settled);
  const pages = found.data?.pages ?? [];
  // Paused: asked again once there is a signal.
  const cut = found.isError || found.fetchStatus === "paused";
  const jobs = cut ? here.filter((job) => matches(job, wish)) : pages.flatMap((p) => p.jobs);
  const name = WAITS.find((w) => w.wait === wish.waits_for)?.name ?? "Found";
  return (
    <section aria-label={name} className="pb-6">
      <h2 className="pb-2 text-xl">{name}</h2>
      {cut ? <p className="pb-2">No signal: only what was opened on this device lately is looked through.</p> : null}
      {jobs.length === 0 && !found.isFetching ? (
        <p role="status">Nothing holds all of that. Try fewer words, or their beginnings.</p>
      ) : null}
      <ul className="flex flex-col gap-2">
        {jobs.map((job) => (
          <JobRow key={job.id} job={job} />
        ))}
      </ul>
      {found.hasNextPage ? (
        <Button
          className="mt-3"
          disabled={found.isFetchingNextPage}
          onClick={() => {
            void found.fetchNextPage();
          }}
        >
          Older ones
        </Button>
      ) : null}
    </section>
  );
}

function JobGroup({ group, older, onOlder }: { group: Group; older: number; onOlder: () => void }) {
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

function boardTitle(jobs: readonly JobShort[]): string {
  const open = jobs.filter(wantsAHand).length;
  const standing = jobs.filter((job) => job.closed === null).length;
  if (jobs.length === 0) return "The board";
  if (open === 0) return "Every machine has its call";
  return `${String(open)} of ${String(standing)} machines still want a check`;
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
function JobRow({ job }: { job: JobShort }) {
  const { layout, called, shape, sure } = useWords(job);
  return (
    <li>
      <Link
        to={whereTo(job)}
        className="sheet grid min-h-12 grid-cols-[auto_1fr_auto] items-center gap-x-4 py-2 pl-2 pr-4 hover:border-ink sm:grid-cols-[auto_minmax(0,1fr)_minmax(0,1fr)_7rem]"
      >
        <span className={`row-span-2 w-3 self-stretch sm:row-span-1 ${shape.bar}`} aria-hidden="true" />
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
      className={`col-span-full mt-1 justify-self-start ${over ? "bg-marigold px-3 py-1 font-bold text-on-marigold" : ""}`}
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
      className={`col-span-full mt-1 justify-self-start border-2 border-ink px-3 py-1 font-bold ${over ? "bg-marigold text-on-marigold" : ""}`}
    >
      {over ? "a wait is over" : "waits"} {over ? null : <span className="font-mono">{text}</span>}
    </span>
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
      await navigate(`/jobs/${job.id}/call`);
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
