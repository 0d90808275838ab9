import { useState } from "react";

import { useCatalogue } from "../../api/queries";
import { entryOf } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { useDraft } from "../../lib/draft";
import { Button } from "../../ui/button";
import { FetchingLists } from "../../ui/fetching";
import { Trouble } from "../../ui/trouble";
import { useFramedJob } from "../job-frame";
import { draftOf, type Edits, entriesOf, type JobDraft } from "../new-job/draft";
import { JobForm } from "../new-job/job-form";
import { EarlierVisits } from "../machines/visits";
import { MadeSafe } from "./made-safe";

/** The complaint and the plate, open to change at any time; only what is edited is sent, and weighed at once. */
export function Story() {
  const job = useFramedJob();
  const catalogue = useCatalogue();
  const saved = draftOf(job);
  const [edits, setEdits, clearEdits] = useDraft<Edits>(`story-edits-${job.id}`, {});
  const [said, setSaid] = useState<string | null>(null);
  const { write, writing } = useWrite(job.id);
  if (!catalogue.data) return <FetchingLists failed={catalogue.isError} />;
  const checked = entriesOf(
    edits,
    saved,
    job.any_time.notes.filter((n) => n.about === "story"),
  );
  const isChanged = !checked.ok || checked.entries.length > 0;
  const change = (next: JobDraft) => {
    const touched = (Object.keys(next) as (keyof JobDraft)[]).filter(
      (key) => next[key] !== { ...saved, ...edits }[key],
    );
    setEdits({ ...edits, ...Object.fromEntries(touched.map((key) => [key, next[key]])) });
  };
  const save = async () => {
    if (!checked.ok) {
      setSaid(checked.say);
      return;
    }
    setSaid(null);
    if (await write(checked.entries)) {
      setEdits({});
      clearEdits();
    }
  };
  return (
    <div className="max-w-4xl">
      <h1 className="pb-5 text-3xl">What is told, and what the plate says</h1>
      <div className="pb-6">
        <MadeSafe job={job} />
      </div>
      <EarlierVisits job={job} catalogue={catalogue.data} />
      <JobForm draft={{ ...saved, ...edits }} catalogue={catalogue.data} onChange={change} />
      {said ? <Trouble title={said} safe="What you typed is kept on this device." /> : null}
      {writing.status === "not_kept" ? (
        <Trouble
          title="This device could not keep that."
          safe="What you typed is still here."
          next="Make room on the device, then save again."
        />
      ) : null}
      <div className="flex flex-wrap items-center gap-4 pt-6">
        <Button weight="strong" disabled={!isChanged || writing.status === "keeping"} onClick={() => void save()}>
          Save and weigh again
        </Button>
        <p role="status" className="text-ink-soft">
          {isChanged ? "Changed; kept on this device until saved." : "Saved."}
        </p>
      </div>
      <LogABridge jobId={job.id} />
    </div>
  );
}

/** Somebody bridged an interlock: said here, it stands on every screen until its restoring is logged. */
function LogABridge({ jobId }: { jobId: string }) {
  const { write } = useWrite(jobId);
  return (
    <section aria-label="Interlocks" className="pt-10">
      <h2 className="text-xl">Interlocks stay as they are</h2>
      <p className="max-w-prose py-2">
        Hear and see a spin with the lid shut: the phone on top, the room dark and a lamp at the glass, the service
        mode. If you find one bridged, or somebody bridged it, log it: it must be restored before the job is closed.
      </p>
      <Button
        onClick={() => {
          void write([entryOf("bridged", { where: "lid or door lock" })]);
        }}
      >
        Log a bridged interlock
      </Button>
    </section>
  );
}
