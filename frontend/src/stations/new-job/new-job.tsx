import { useState } from "react";
import { useNavigate } from "react-router";

import type { KnownMachine } from "../../api/client";
import { useCatalogue } from "../../api/knowledge";
import { useMachinesLike } from "../../api/machines";
import { useMe } from "../../api/people";
import { type Body, entryOf } from "../../device/entries";
import { uuid7 } from "../../device/ids";
import { useOutbox } from "../../device/device";
import { useDraft } from "../../lib/draft";
import { Button } from "../../ui/button";
import { TextField } from "../../ui/field";
import { Trouble } from "../../ui/trouble";
import { machineWords } from "../machines/machine-words";

type Layout = Body<"machine">["layout"];

/** A job is opened on this device, with or without a signal: only where the machine is has to be said. */
export function NewJob() {
  const [place, setPlace, clearPlace] = useDraft("new-job-place", "");
  const [said, setSaid] = useState<string | null>(null);
  const [practice, setPractice] = useState(false);
  const me = useMe();
  const outbox = useOutbox();
  const navigate = useNavigate();
  const open = async (known: KnownMachine | null) => {
    const where = known?.place ?? place.trim();
    if (where === "") {
      setSaid("Say where the machine is.");
      return;
    }
    const id = uuid7();
    // Without a signal the register is not at hand: the layout shows at once.
    const met = known ? { known_as: known.id, layout: (known.facts.layout ?? null) as Layout } : {};
    try {
      await outbox.write(id, [entryOf("machine", { place: where, ...met })], practice ? "practice" : true);
    } catch {
      setSaid("This device could not keep the job. Make room on it, then try again.");
      return;
    }
    clearPlace();
    setPlace("");
    await navigate(`/jobs/${id}/story`);
  };
  return (
    <main className="flex max-w-3xl flex-col gap-6 pt-6">
      <h1 className="text-3xl sm:text-4xl">A new visit</h1>
      <TextField
        label="Where is the machine?"
        hint="Place and spot, as you would say it: “Lock cottage 3, scullery”. All else is a matter of taps, and kept as you go."
        value={place}
        maxLength={200}
        autoComplete="off"
        onChange={setPlace}
        onKeyDown={(event) => {
          if (event.key === "Enter") void open(null);
        }}
      />
      {practice ? null : (
        <KnownMachines
          place={place}
          onKnown={(machine) => {
            void open(machine);
          }}
        />
      )}
      {me.data?.role === "trainee" ? null : (
        <label className="flex min-h-12 items-center gap-3">
          <input
            type="checkbox"
            className="size-6"
            checked={practice}
            onChange={(event) => {
              setPractice(event.target.checked);
            }}
          />
          <span>
            To practise
            <span className="block text-sm text-ink-soft">
              Counts for nothing, stands in no register; trainees may do everything in it.
            </span>
          </span>
        </label>
      )}
      {said ? <Trouble title={said} safe="What you typed is kept on this device." /> : null}
      <div>
        <Button weight="strong" onClick={() => void open(null)}>
          Open the job
        </Button>
      </div>
    </main>
  );
}

/** Machines met before at a place that sounds like this one: a person says whether it is one of them. */
function KnownMachines({ place, onKnown }: { place: string; onKnown: (machine: KnownMachine) => void }) {
  const catalogue = useCatalogue();
  const found = useMachinesLike(place);
  const machines = found.data?.machines ?? [];
  if (machines.length === 0) return null;
  return (
    <fieldset>
      <legend className="pb-2 font-bold">Is it one of these? Then open its next visit.</legend>
      <ul className="flex flex-col gap-2">
        {machines.map((machine) => (
          <li key={machine.id}>
            <button
              type="button"
              className="sheet min-h-12 w-full px-4 py-2 text-left hover:border-ink"
              onClick={() => {
                onKnown(machine);
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
