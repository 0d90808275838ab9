import { useState } from "react";
import { useNavigate } from "react-router";

import { useCatalogue, useNewJob } from "../../api/queries";
import { useDraft } from "../../lib/draft";
import { Button } from "../../ui/button";
import { Trouble, Waiting } from "../../ui/trouble";
import { EMPTY_DRAFT, type JobDraft, machineOf } from "./draft";
import { JobForm } from "./job-form";

export function NewJob() {
  const catalogue = useCatalogue();
  const [draft, setDraft, clearDraft] = useDraft<JobDraft>("new-job", EMPTY_DRAFT);
  const [said, setSaid] = useState<string | null>(null);
  const newJob = useNewJob();
  const navigate = useNavigate();
  if (!catalogue.data)
    return catalogue.isError ? <Trouble title={catalogue.error.message} /> : <Waiting what="Fetching the lists" />;
  const open = () => {
    const checked = machineOf(draft);
    if (!checked.ok) {
      setSaid(checked.say);
      return;
    }
    newJob.mutate(
      { place: draft.place.trim(), machine: checked.machine, symptoms: draft.symptoms, note: draft.note },
      {
        onSuccess: (job) => {
          setDraft(EMPTY_DRAFT);
          clearDraft();
          void navigate(`/jobs/${String(job.id)}/spin`);
        },
        onError: (error) => {
          setSaid(error.message);
        },
      },
    );
  };
  return (
    <main className="max-w-4xl pt-6">
      <h1 className="pb-5 text-3xl sm:text-4xl">A machine, and what it does wrong</h1>
      <JobForm draft={draft} catalogue={catalogue.data} onChange={setDraft} />
      {said ? <Trouble title={said} safe="What you typed is kept on this device." /> : null}
      <div className="pt-6">
        <Button weight="strong" disabled={newJob.isPending} onClick={open}>
          {newJob.isPending ? "Opening …" : "Open the job"}
        </Button>
      </div>
    </main>
  );
}
