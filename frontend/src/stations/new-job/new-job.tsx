import { useState } from "react";
import { useNavigate } from "react-router";

import { useCatalogue, useMachinesLike } from "../../api/queries";
import { uuid7 } from "../../device/ids";
import { useOutbox } from "../../device/device";
import { useDraft } from "../../lib/draft";
import { Button } from "../../ui/button";
import { FetchingLists } from "../../ui/fetching";
import { Trouble } from "../../ui/trouble";
import { machineWords } from "../machines/machine-words";
import { EMPTY_DRAFT, entriesOf, type JobDraft, missing } from "./draft";
import { JobForm } from "./job-form";

/** A job is opened on this device, with or without a signal, and sent as soon as there is one. */
export function NewJob() {
  const catalogue = useCatalogue();
  const [kept, setDraft, clearDraft] = useDraft<Partial<JobDraft>>("new-job", EMPTY_DRAFT);
  // What an earlier version kept lacks what it did not know.
  const draft: JobDraft = { ...EMPTY_DRAFT, ...kept };
  const [said, setSaid] = useState<string | null>(null);
  const outbox = useOutbox();
  const navigate = useNavigate();
  if (!catalogue.data) {
    return (
      <main>
        <h1 className="pb-5 pt-6 text-3xl sm:text-4xl">A machine, and what it does wrong</h1>
        <FetchingLists failed={catalogue.isError} />
      </main>
    );
  }
  const open = async () => {
    const lacks = missing(draft);
    const checked = entriesOf(draft, EMPTY_DRAFT);
    if (lacks !== null || !checked.ok) {
      setSaid(lacks ?? (checked.ok ? "" : checked.say));
      return;
    }
    const id = uuid7();
    try {
      await outbox.write(id, checked.entries, true);
    } catch {
      setSaid("This device could not keep the job. Make room on it, then try again.");
      return;
    }
    setDraft(EMPTY_DRAFT);
    clearDraft();
    await navigate(`/jobs/${id}/spin`);
  };
  return (
    <main className="max-w-4xl pt-6">
      <h1 className="pb-5 text-3xl sm:text-4xl">A machine, and what it does wrong</h1>
      <JobForm draft={draft} catalogue={catalogue.data} onChange={setDraft}>
        <KnownMachines draft={draft} onChange={setDraft} />
      </JobForm>
      {said ? <Trouble title={said} safe="What you typed is kept on this device." /> : null}
      <div className="pt-6">
        <Button weight="strong" onClick={() => void open()}>
          Open the job
        </Button>
      </div>
    </main>
  );
}

/** Machines met before at a place that sounds like this one: a person says whether it is one of them. */
function KnownMachines({ draft, onChange }: { draft: JobDraft; onChange: (draft: JobDraft) => void }) {
  const catalogue = useCatalogue();
  const found = useMachinesLike(draft.knownAs ? "" : draft.place);
  if (draft.knownAs) {
    return (
      <p className="sheet flex flex-wrap items-center gap-x-4 px-4 py-2">
        <span className="mr-auto">A machine we have met. What is known of it is filled in.</span>
        <Button
          weight="quiet"
          onClick={() => {
            onChange({ ...draft, knownAs: "" });
          }}
        >
          It is another one
        </Button>
      </p>
    );
  }
  const machines = found.data?.machines ?? [];
  if (machines.length === 0) return null;
  return (
    <fieldset>
      <legend className="pb-2 font-bold">Is it one of these?</legend>
      <ul className="flex flex-col gap-2">
        {machines.map((machine) => (
          <li key={machine.id}>
            <button
              type="button"
              className="sheet min-h-12 w-full px-4 py-2 text-left hover:border-ink"
              onClick={() => {
                onChange({ ...draft, place: machine.place, layout: machine.facts.layout ?? "", knownAs: machine.id });
              }}
            >
              <span className="block font-bold">{machine.place}</span>
              <span className="text-sm text-ink-soft">
                {machineWords(machine.facts, catalogue.data)}, {machine.visits.length}{" "}
                {machine.visits.length === 1 ? "visit" : "visits"}
              </span>
            </button>
          </li>
        ))}
      </ul>
    </fieldset>
  );
}
