import { useState } from "react";
import { Link } from "react-router";

import type { Money, RecordData } from "../../api/client";
import { useLeaveOut, useRecord, useSettle } from "../../api/shop";
import { percent, words } from "../../lib/format";
import { money } from "../../lib/money";
import { Keepable } from "../../marks/graphs/keepable";
import { SaidAndWas } from "../../marks/graphs/said-and-was";
import { standingTable } from "../../marks/graphs/tables";
import { Button } from "../../ui/button";
import { OneChip } from "../../ui/chips";
import { Fetching } from "../../ui/fetching";
import { TextField } from "../../ui/field";
import { Trouble } from "../../ui/trouble";
import { ofWords, partWords, recordTitle } from "./record-words";

type Ended = RecordData["jobs"][number];

/** How often the shop's calls were right, and what that taught it. */
export function ShopRecord() {
  const record = useRecord();
  if (!record.data) {
    return (
      <main>
        <h1 className="pt-6 text-3xl">How often we were right</h1>
        <Fetching what="the shop’s record" failed={record.isError} />
      </main>
    );
  }
  const { data } = record;
  return (
    <main className="flex max-w-4xl flex-col gap-8 pt-6">
      <header>
        <h1 className="text-3xl sm:text-4xl">{recordTitle(data)}</h1>
        <p className="pt-2">
          Of {data.ended} ended jobs {data.known} are surely known; {data.left_out} left out by hand.
        </p>
      </header>
      {data.known === 0 ? (
        <p className="sheet p-6">
          Say at Proof what was really wrong when a job ends: each call is then held against it, and the odds follow.
        </p>
      ) : (
        <>
          <section aria-label="What was said and what was right">
            <Keepable name="Said and was" table={() => standingTable(data.bins)}>
              <SaidAndWas bins={data.bins} />
            </Keepable>
          </section>
          <section aria-label="Figures" className="grid gap-x-8 gap-y-3 sm:grid-cols-2">
            <Figure name="Named right at first" part={data.right} />
            <Figure name="Opened in vain" part={data.in_vain} cost={data.in_vain_cost} />
            <Figure name="Came back after it was mended" part={data.again} cost={data.again_cost} />
            <Figure name="Own view right where it departed" part={data.own_right} />
            {data.minutes === null ? null : (
              <p className="border-t border-line pt-2">
                <span className="block font-bold">To the call, in the middle of all</span>
                <span className="font-mono">{data.minutes.toFixed(0)} min</span>
              </p>
            )}
          </section>
          <Threshold data={data} />
          <Mistakes data={data} />
          {data.by_layout.length > 1 ? <Parts title="By layout" parts={data.by_layout} /> : null}
          {data.by_person.length > 1 ? <Parts title="By person" parts={data.by_person} /> : null}
        </>
      )}
      <Learning data={data} />
      <Jobs jobs={data.jobs} />
    </main>
  );
}

function Figure({ name, part, cost }: { name: string; part: RecordData["right"]; cost?: Money }) {
  return (
    <p className="border-t border-line pt-2">
      <span className="block font-bold">{name}</span>
      <span>{partWords(part)}</span>
      {cost && cost.minor > 0 ? <span className="block">It cost the shop {money(cost, true)}.</span> : null}
    </p>
  );
}

function Threshold({ data }: { data: RecordData }) {
  const [chosen, setChosen] = useState("0.8");
  const row = data.thresholds.find((t) => String(t.chance) === chosen) ?? data.thresholds[0];
  if (!row) return null;
  return (
    <section aria-label="If machines were opened only from a chance on">
      <h2 className="pb-2 text-xl">If we had opened only from</h2>
      <OneChip
        label="From which chance on"
        options={data.thresholds.map((t) => ({ value: String(t.chance), label: `${(100 * t.chance).toFixed(0)} %` }))}
        value={String(row.chance)}
        onChange={(value) => {
          if (value !== "") setChosen(value);
        }}
      />
      <p className="pt-3" role="status">
        {row.opened.of === 0
          ? "None would have been opened."
          : `${String(row.opened.of)} would have been opened, ${String(row.opened.of - row.opened.hits)} of them for something else than what it was.`}
      </p>
    </section>
  );
}

function Mistakes({ data }: { data: RecordData }) {
  const wrong = data.taken.filter((t) => t.found !== t.called);
  const most = Math.max(1, ...wrong.map((t) => t.count));
  return (
    <section aria-label="What was taken for what">
      <h2 className="pb-2 text-xl">
        {wrong.length === 0 ? "Nothing was taken for something else" : "Taken for something else"}
      </h2>
      <ul>
        {wrong.slice(0, 12).map((t) => (
          <li key={`${t.found} ${t.called}`} className="grid grid-cols-[1fr_auto] gap-x-4 border-t border-line py-2">
            <span>
              <strong>{t.found}</strong> was called {t.called.toLowerCase()}
            </span>
            <span className="flex items-center gap-2 font-mono">
              <span aria-hidden="true" className="h-3 bg-ink" style={{ width: (60 * t.count) / most }} />
              {t.count}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Parts({ title, parts }: { title: string; parts: RecordData["by_layout"] }) {
  return (
    <section aria-label={title}>
      <h2 className="pb-2 text-xl">{title}</h2>
      <ul>
        {parts.map((part) => (
          <li key={part.name} className="flex flex-wrap justify-between gap-x-4 border-t border-line py-2">
            <strong>{part.name}</strong>
            <span>{partWords(part.right)}</span>
            <span className="w-full text-sm text-ink-soft">{ofWords(part)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Every number that was sharpened: as it was brought along, as it was counted here, as it is now. */
function Learning({ data }: { data: RecordData }) {
  const settle = useSettle();
  const [layout, setLayout] = useState("");
  const odds = data.odds.find((o) => o.layout === layout) ?? data.odds[0];
  return (
    <section aria-label="What it taught the odds" className="flex flex-col gap-4 border-t-4 border-ink pt-4">
      <div>
        <h2 className="pb-2 text-2xl">
          {data.learns ? "The odds follow what we find" : "The odds are those brought along"}
        </h2>
        <p className="max-w-prose">
          What is opened is no random sample: a job of which nobody is sure counts by the odds brought along, so that
          opened ones do not crowd it out. The odds brought along are worth two hundred and fifty visits of a layout, a
          column of a finding three hundred readings. Nothing ever falls to nought.
        </p>
      </div>
      <div>
        <Button
          aria-pressed={data.learns}
          onClick={() => {
            settle.mutate({ learns: !data.learns });
          }}
        >
          {data.learns ? "Weigh with the odds brought along instead" : "Let the odds follow what we find"}
        </Button>
      </div>
      {odds ? (
        <>
          {data.odds.length > 1 ? (
            <OneChip
              label="Layout"
              options={data.odds.map((o) => ({ value: o.layout, label: o.name }))}
              value={odds.layout}
              onChange={setLayout}
            />
          ) : null}
          <div className="overflow-x-auto">
            <table className="w-full text-left">
              <caption className="pb-1 text-left text-sm text-ink-soft">
                {odds.name}: {odds.visits.toFixed(0)} ended visits
              </caption>
              <thead className="text-sm">
                <tr>
                  <th scope="col">What it was</th>
                  <th scope="col" className="text-right">
                    brought along
                  </th>
                  <th scope="col" className="text-right">
                    counted
                  </th>
                  <th scope="col" className="text-right">
                    now
                  </th>
                </tr>
              </thead>
              <tbody className="font-mono">
                {odds.odds
                  .filter((o) => o.counted >= 0.05 || o.now > 0.03)
                  .map((o) => (
                    <tr key={o.fault} className="border-t border-line">
                      <th scope="row" className="py-1 font-sans font-normal">
                        {o.name}
                      </th>
                      <td className="text-right">{percent(o.built_in)}</td>
                      <td className="text-right">{o.counted.toFixed(1)}</td>
                      <td className="text-right font-bold">{percent(o.now)}</td>
                    </tr>
                  ))}
              </tbody>
            </table>
          </div>
          <Columns columns={data.columns} />
        </>
      ) : null}
    </section>
  );
}

function Columns({ columns }: { columns: RecordData["columns"] }) {
  const [all, setAll] = useState(false);
  const shown = all ? columns.slice(0, 200) : columns.slice(0, 6);
  if (columns.length === 0) return null;
  return (
    <div>
      <h3 className="pb-2 text-xl">How findings fall, sharpened by what was found</h3>
      <ul>
        {shown.map((c) => (
          <li key={`${c.finding} ${c.fault}`} className="border-t border-line py-2">
            <p>
              <strong>{c.name}</strong>, {c.fault === "none" ? "nothing wrong" : c.fault_name.toLowerCase()}
            </p>
            <ul className="grid gap-x-6 text-sm sm:grid-cols-2">
              {c.levels.map((level, i) => (
                <li key={level} className="flex justify-between gap-x-3">
                  <span>{words(level)}</span>
                  <span className="font-mono">
                    {percent(c.built_in[i] ?? 0)}, {(c.counted[i] ?? 0).toFixed(1)} counted,{" "}
                    <strong>{percent(c.now[i] ?? 0)}</strong>
                  </span>
                </li>
              ))}
            </ul>
          </li>
        ))}
      </ul>
      {columns.length > 6 ? (
        <Button
          weight="quiet"
          aria-expanded={all}
          onClick={() => {
            setAll(!all);
          }}
        >
          {all ? "Only the most counted" : `${String(columns.length - 6)} more`}
        </Button>
      ) : null}
    </div>
  );
}

function Jobs({ jobs }: { jobs: readonly Ended[] }) {
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
