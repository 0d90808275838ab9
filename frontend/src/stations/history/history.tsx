import type { HistoryEntry, Job } from "../../api/client";
import { useHistory } from "../../api/jobs";
import { useCatalogue } from "../../api/knowledge";
import { useWaitingOf } from "../../device/device";
import { type EntryKind, takenBack } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { clock } from "../../lib/format";
import { Button } from "../../ui/button";
import { Fetching } from "../../ui/fetching";
import { useFramedJob } from "../job-frame";
import { entryWords } from "./entry-words";

/** Everything that was ever entered on this job, newest first. Nothing is changed; what is wrong is taken back. */
export function History() {
  const job = useFramedJob();
  const waiting = useWaitingOf(job.id);
  const history = useHistory(job.id, job.seq);
  const entries = [...(history.data?.entries ?? [])].reverse();
  const byId = new Map(entries.map((entry) => [entry.id, entry]));
  const last = entries.find((e) => e.counts && e.body !== null);
  const waits = waiting.entries.filter((w) => !w.refused);
  return (
    <div className="max-w-4xl">
      <div className="flex flex-wrap items-end gap-4 pb-4">
        <h1 className="mr-auto text-3xl">What was entered, and when</h1>
        {last ? <UndoLast job={job} entry={last} /> : null}
      </div>
      {history.data || waits.length > 0 ? null : <Fetching what="the diary" failed={history.isError} />}
      <ol className="flex flex-col gap-2">
        {waits.length > 0 ? (
          <li className="border-2 border-dashed border-ink-soft px-4 py-2">
            {waits.length} {waits.length === 1 ? "entry waits" : "entries wait"} on this device for a signal.
          </li>
        ) : null}
        {entries.map((entry) => (
          <EntryRow key={entry.id} job={job} entry={entry} before={byId.get(entry.replaces ?? "")} />
        ))}
      </ol>
    </div>
  );
}

function UndoLast({ job, entry }: { job: Job; entry: HistoryEntry }) {
  const { write } = useWrite(job.id);
  const catalogue = useCatalogue();
  return (
    <Button
      weight="strong"
      onClick={() => {
        void write([takenBack(entry.kind as EntryKind, entry.id)]);
      }}
    >
      Undo: {entryWords(entry, catalogue.data)}
    </Button>
  );
}

function EntryRow({ job, entry, before }: { job: Job; entry: HistoryEntry; before: HistoryEntry | undefined }) {
  const { write } = useWrite(job.id);
  const catalogue = useCatalogue();
  const words = entryWords(entry, catalogue.data, before);
  return (
    <li
      className={`flex flex-wrap items-center gap-x-4 px-4 py-1 ${entry.counts ? "sheet" : "border-2 border-dashed border-line text-ink-soft"}`}
    >
      <span className="font-mono text-sm">{clock(entry.made_at)}</span>
      <span className={`mr-auto min-w-40 flex-1 ${entry.counts || entry.body === null ? "" : "line-through"}`}>
        {words}
      </span>
      <span className="text-sm text-ink-soft">{[entry.by, entry.device].filter((w) => w).join(", ")}</span>
      {entry.counts && entry.body !== null ? (
        <Button
          weight="quiet"
          aria-label={`Take back: ${words}`}
          onClick={() => {
            void write([takenBack(entry.kind as EntryKind, entry.id)]);
          }}
        >
          Take back
        </Button>
      ) : (
        <span className="inline-flex min-h-12 items-center text-sm">{entry.body === null ? "" : "does not count"}</span>
      )}
    </li>
  );
}
