import { useState } from "react";

import type { Catalogue, Job } from "../../api/client";
import { useCall } from "../../api/calls";
import { type Body, entryOf } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { ManyChips } from "../../ui/chips";
import { inTheOrderOf, shortAndRest } from "./likely-first";

type Fault = Body<"found">["faults"][number];
const NOTHING = "none";

/** What was really found: the call is later held against it. What the call had in mind stands first. */
export function ReallyWrong({ job, catalogue }: { job: Job; catalogue: Catalogue }) {
  const { write } = useWrite(job.id);
  const call = useCall(job.id, job.call?.weighed);
  const [all, setAll] = useState(false);
  const layout = job.machine.layout ?? "";
  const there = codes(job.proof.found?.["faults"]);
  const sound = codes(job.proof.found?.["not_there"]);
  const faults = catalogue.faults.filter((f) => f.layouts.includes(layout));
  const likely = call.data?.result.suspects.map((s) => s.fault) ?? [];
  const options = inTheOrderOf(
    faults.map((f) => ({ value: f.code, label: f.name })),
    likely,
  );
  const { short, rest } = shortAndRest(options, [...there, NOTHING]);
  const couldBeSound = options.filter((o) => o.value !== NOTHING && !there.includes(o.value));
  const named = (codes: readonly string[]) =>
    codes.map((code) => faults.find((f) => f.code === code)?.name.toLowerCase() ?? code).join(", ");
  const say = (faultsThere: string[], notThere: string[]) => {
    void write([
      entryOf("found", {
        faults: faultsThere as Fault[],
        not_there: notThere.filter((f) => !faultsThere.includes(f)) as Fault[],
        sure: true,
      }),
    ]);
  };
  return (
    <>
      <div>
        <h2 className="pb-2 text-2xl">What was really wrong?</h2>
        <ManyChips
          label="Really wrong"
          options={all ? options : short}
          value={there}
          onChange={(value) => {
            say(value, sound);
          }}
        />
        {rest.length > 0 && !all ? (
          <button
            type="button"
            className="mt-2 min-h-12 font-bold underline underline-offset-4"
            onClick={() => {
              setAll(true);
            }}
          >
            Something else: {rest.length} more
          </button>
        ) : null}
      </div>
      <details>
        <summary className="min-h-12 cursor-pointer py-3">
          <span className="font-bold">Looked at and sound</span>
          {sound.length > 0 ? `: ${named(sound)}` : null}
        </summary>
        <ManyChips
          label="Looked at and sound"
          options={couldBeSound}
          value={sound}
          onChange={(value) => {
            say(there, value);
          }}
        />
      </details>
    </>
  );
}

function codes(value: unknown): string[] {
  return Array.isArray(value) ? value.map(String) : [];
}
