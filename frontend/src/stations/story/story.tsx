import { useState } from "react";

import { useCatalogue, useChangeJob } from "../../api/queries";
import { useDraft } from "../../lib/draft";
import { Button } from "../../ui/button";
import { Trouble, Waiting } from "../../ui/trouble";
import { useFramedJob } from "../job-frame";
import { draftOf, type JobDraft, machineOf } from "../new-job/draft";
import { JobForm } from "../new-job/job-form";

/** The complaint and the plate, open to change at any time; a change is weighed at once. */
export function Story() {
  const job = useFramedJob();
  const catalogue = useCatalogue();
  const saved = draftOf(job);
  const [draft, setDraft, clearDraft] = useDraft<JobDraft>(`story-${String(job.id)}`, saved);
  const [said, setSaid] = useState<string | null>(null);
  const change = useChangeJob(job.id);
  if (!catalogue.data) return <Waiting what="Fetching the lists" />;
  const isChanged = JSON.stringify(draft) !== JSON.stringify(saved);
  const save = () => {
    const checked = machineOf(draft, {
      spider_arms: job.machine.spider_arms ?? 3,
      stacked: job.machine.stacked ?? null,
    });
    if (!checked.ok) {
      setSaid(checked.say);
      return;
    }
    setSaid(null);
    change.mutate(
      { place: draft.place.trim(), machine: checked.machine, symptoms: draft.symptoms, note: draft.note },
      {
        onSuccess: (next) => {
          setDraft(draftOf(next));
          clearDraft();
        },
        onError: (error) => {
          setSaid(error.message);
        },
      },
    );
  };
  return (
    <div className="max-w-4xl">
      <h1 className="pb-5 text-3xl">What is told, and what the plate says</h1>
      <JobForm draft={draft} catalogue={catalogue.data} onChange={setDraft} />
      {said ? <Trouble title={said} safe="What you typed is kept on this device." /> : null}
      <div className="flex flex-wrap items-center gap-4 pt-6">
        <Button weight="strong" disabled={!isChanged || change.isPending} onClick={save}>
          {change.isPending ? "Saving …" : "Save and weigh again"}
        </Button>
        <p role="status" className="text-ink-soft">
          {isChanged ? "Changed; kept on this device until saved." : "Saved."}
        </p>
      </div>
    </div>
  );
}
