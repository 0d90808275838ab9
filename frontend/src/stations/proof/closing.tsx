import { useState } from "react";

import type { Catalogue, Job, ProofData } from "../../api/client";
import { type Body, entryOf } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { day, words } from "../../lib/format";
import { Button } from "../../ui/button";
import { OneChip } from "../../ui/chips";
import { TextField } from "../../ui/field";
import { PaperLinks } from "../../ui/paper-links";
import { Trouble } from "../../ui/trouble";
import { OldParts } from "./old-parts";
import { ReallyWrong } from "./really-wrong";
import { saidOf } from "./tests";

type Outcome = Body<"closed">["outcome"];
const OUTCOMES: readonly { value: Outcome; label: string }[] = [
  { value: "mended", label: "Mended" },
  { value: "workaround", label: "Workaround" },
  { value: "no_fault", label: "Nothing wrong" },
  { value: "declined", label: "Declined" },
  { value: "scrapped", label: "Scrapped" },
  { value: "referred", label: "Referred" },
];

/** What was really found, when somebody comes back, and the job closed: this is what the call is later held against. */
export function Closing({ job, proof, catalogue }: { job: Job; proof: ProofData; catalogue: Catalogue }) {
  const { write, writing } = useWrite(job.id);
  const [outcome, setOutcome] = useState<Outcome | "">("");
  const [why, setWhy] = useState("");
  const unproved = proof.tests.filter((t) => !t.optional && saidOf(job, t) !== "passed");
  const known = new Set(job.proof.follow_ups.map((f) => f["what"]));
  const proposed = proof.follow_ups.filter((f) => !known.has(f.what));
  return (
    <section aria-label="Closing" className="flex flex-col gap-5 border-t-4 border-ink pt-4">
      <ReallyWrong job={job} catalogue={catalogue} />
      <OldParts job={job} parts={proof.parts} />
      {job.proof.follow_ups.length + proposed.length > 0 ? (
        <div>
          <h3 className="pb-2 font-bold">Coming back to it</h3>
          <ul className="flex flex-col gap-2">
            {job.proof.follow_ups.map((f) => (
              <li key={`${String(f["due"])} ${String(f["what"])}`} className="flex flex-wrap items-center gap-3">
                <span>
                  <span className="font-mono">{day(String(f["due"]))}</span> {String(f["what"])}
                </span>
                {f["done"] === true ? (
                  <span className="text-seaglass">done</span>
                ) : (
                  <Button
                    onClick={() => {
                      const body = { due: String(f["due"]), what: String(f["what"]), done: true };
                      void write([entryOf("follow_up", body)]);
                    }}
                  >
                    Done
                  </Button>
                )}
              </li>
            ))}
          </ul>
          {proposed.length > 0 ? (
            <Button
              onClick={() => {
                void write(proposed.map((f) => entryOf("follow_up", { due: f.due, what: f.what })));
              }}
            >
              Put on the board: {proposed.map((f) => `${day(f.due)} ${f.what.toLowerCase()}`).join("; ")}
            </Button>
          ) : null}
        </div>
      ) : null}
      {proof.advice.length > 0 ? (
        <div>
          <h3 className="pb-1 font-bold">Tell the customer</h3>
          {proof.advice.map((text) => (
            <p key={text} className="max-w-prose">
              {text}
            </p>
          ))}
        </div>
      ) : null}
      <div>
        <h3 className="pb-2 font-bold">Close the job as</h3>
        {job.any_time.closed ? (
          <p className="pb-2 font-bold" role="status">
            Closed: {words(job.any_time.closed)}
            {unproved.length > 0 && ["mended", "workaround"].includes(job.any_time.closed) ? ", not proved" : ""}.
          </p>
        ) : null}
        <OneChip
          label="Close the job as"
          options={OUTCOMES}
          value={outcome}
          onChange={(value) => {
            setOutcome(value as Outcome | "");
          }}
        />
      </div>
      <div>
        <PaperLinks name="The customer’s report as PDF" href={`/api/jobs/${job.id}/report.pdf`} />
        <PaperLinks name="Label for the cabinet as PDF" href={`/api/jobs/${job.id}/label.pdf`} />
      </div>
      {outcome === "mended" && unproved.length > 0 ? (
        <p>
          It will close as <strong>not proved</strong>: {unproved.map((t) => t.test.name.toLowerCase()).join(", ")}.
        </p>
      ) : null}
      {proof.gates_open.length > 0 && (outcome === "mended" || outcome === "workaround") ? (
        <p className="font-bold">Still open: {proof.gates_open.join("; ")}.</p>
      ) : null}
      {outcome !== "" ? <TextField label="In a few words" value={why} onChange={setWhy} /> : null}
      {writing.status === "refused" ? (
        <Trouble title={writing.refusal.message} safe="The job is still open, and nothing is lost." />
      ) : null}
      <div className="flex flex-wrap gap-3">
        <Button
          weight="strong"
          disabled={outcome === "" || writing.status === "keeping"}
          onClick={() => {
            if (outcome !== "")
              void write([entryOf("closed", { outcome, ...(why.trim() ? { why: why.trim() } : {}) })]);
          }}
        >
          Close the job
        </Button>
        {job.any_time.closed ? (
          <Button
            onClick={() => {
              void write([entryOf("reopened", {})]);
            }}
          >
            Open it again
          </Button>
        ) : null}
      </div>
    </section>
  );
}
