import { useState } from "react";

import type { Evidence, Job } from "../../api/client";
import { type Body, entryOf, takenBack } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { Button } from "../../ui/button";
import { TextField } from "../../ui/field";

type Finding = Body<"set_aside">["finding"];

/** Inside a pull's story: the technician does not believe this finding, and says why. */
export function SetAsideForm({ job, evidence }: { job: Job; evidence: Evidence }) {
  const { write, writing } = useWrite(job.id);
  const [asked, setAsked] = useState(false);
  const [why, setWhy] = useState("");
  if (!asked) {
    return (
      <Button
        weight="quiet"
        onClick={() => {
          setAsked(true);
        }}
      >
        I do not believe it
      </Button>
    );
  }
  return (
    <form
      className="flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (why.trim())
          void write([entryOf("set_aside", { finding: evidence.code as Finding, why: why.trim().slice(0, 500) })]);
      }}
    >
      <TextField label="Why not?" value={why} onChange={setWhy} autoFocus />
      <Button type="submit" weight="strong" disabled={!why.trim() || writing.status === "keeping"}>
        Leave it out of the sum
      </Button>
    </form>
  );
}

/** What was left out of the sum, by whom it was not believed, and the way back. */
export function SetAsideList({ job, nameOf }: { job: Job; nameOf: (finding: string) => string }) {
  const { write } = useWrite(job.id);
  if (job.set_aside.length === 0) return null;
  return (
    <section aria-label="Left out of the sum" className="border-l-4 border-ink pl-4">
      <h2 className="pb-1 text-xl">Left out of the sum</h2>
      <ul className="flex flex-col gap-2">
        {job.set_aside.map((said) => (
          <li key={said.finding} className="flex flex-wrap items-center justify-between gap-x-4">
            <span>
              <strong>{nameOf(said.finding)}</strong>: {said.why}
            </span>
            <Button
              onClick={() => {
                void write([takenBack("set_aside", said.entry)]);
              }}
            >
              Count it again
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
