import { useState } from "react";
import type { Money, RecordData } from "../../api/client";
import { useRecord } from "../../api/shop";
import { money } from "../../lib/money";
import { Keepable } from "../../marks/graphs/keepable";
import { SaidAndWas } from "../../marks/graphs/said-and-was";
import { standingTable } from "../../marks/graphs/tables";
import { OneChip } from "../../ui/chips";
import { Fetching } from "../../ui/fetching";
import { ofWords, partWords, recordTitle } from "./record-words";
import { Jobs } from "./ended-jobs";
import { Learning } from "./learning";

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
