import { useState } from "react";

import type { Job, ProofData } from "../../api/client";
import { type AnyEntry, entryOf } from "../../device/entries";
import { Button } from "../../ui/button";
import { TextField } from "../../ui/field";
import { Guide, settlesItself } from "./guides/guide";

type State = ProofData["tests"][number];

/** How a test stands on this device: what was just said counts before the server has it. */
export function saidOf(job: Job, state: State): "passed" | "failed" | "left out" | "open" {
  const said = job.proof.proved.find((p) => p.test === state.test.code);
  if (said) return said.passed ? "passed" : "failed";
  return leftOut(job, state) !== "" ? "left out" : "open";
}

function leftOut(job: Job, state: State): string {
  return job.any_time.notes.find((n) => n.about === `proof:${state.test.code}`)?.text ?? state.left_out;
}

/** The tests in their order: how, the pass mark, and what came of it. */
export function Tests({
  job,
  proof,
  onWrite,
}: {
  job: Job;
  proof: ProofData;
  onWrite: (entries: readonly AnyEntry[]) => void;
}) {
  const first = proof.tests.find((t) => saidOf(job, t) === "open" && !t.optional);
  const [open, setOpen] = useState<string | null>(null);
  const shown = open ?? first?.test.code;
  return (
    <ol className="flex flex-col gap-2" aria-label="Proofs">
      {proof.tests.map((state) => (
        <Test
          key={state.test.code}
          job={job}
          proof={proof}
          state={state}
          open={shown === state.test.code}
          onOpen={() => {
            setOpen(shown === state.test.code ? "" : state.test.code);
          }}
          onWrite={(entries) => {
            onWrite(entries);
            setOpen(null);
          }}
        />
      ))}
    </ol>
  );
}

// Its looks say whether it passed.
const LOOKED_AT = "p_witness";
const MARK = { passed: "✓", failed: "✗", "left out": "–", open: "○" };

function Test({
  job,
  proof,
  state,
  open,
  onOpen,
  onWrite,
}: {
  job: Job;
  proof: ProofData;
  state: State;
  open: boolean;
  onOpen: () => void;
  onWrite: (entries: readonly AnyEntry[]) => void;
}) {
  const { test } = state;
  const [why, setWhy] = useState("");
  const said = saidOf(job, state);
  return (
    <li className={`sheet px-4 py-2 ${open ? "border-ink" : ""}`}>
      <button
        type="button"
        aria-expanded={open}
        className="flex min-h-12 w-full flex-wrap items-center gap-x-3 text-left"
        onClick={onOpen}
      >
        <span className="w-5 font-mono text-lg font-bold" aria-hidden="true">
          {MARK[said]}
        </span>
        <span className="text-lg font-bold">{test.name}</span>
        <span className="ml-auto text-sm">
          {said === "open" ? `${test.minutes.toFixed(0)} min${state.optional ? ", if wanted" : ""}` : said}
        </span>
      </button>
      {open ? (
        <div className="flex flex-col gap-3 pb-3">
          <p>{test.how}.</p>
          <p>
            <strong>Passes when:</strong> {test.passes[0]?.toLowerCase()}
            {test.passes.slice(1)}.
          </p>
          <p className="text-ink-soft">{test.why}</p>
          <Guide job={job} test={test} proof={proof} onWrite={onWrite} />
          {said === "left out" ? <p>Left out: {leftOut(job, state)}</p> : null}
          <div className={test.code === LOOKED_AT ? "hidden" : "flex flex-wrap gap-3"}>
            <Button
              weight={settlesItself(test) ? "plain" : "strong"}
              onClick={() => {
                onWrite([entryOf("proved", { test: test.code, passed: true })]);
              }}
            >
              Passed
            </Button>
            <Button
              onClick={() => {
                onWrite([entryOf("proved", { test: test.code, passed: false })]);
              }}
            >
              Failed
            </Button>
          </div>
          {state.optional ? null : (
            <div className="flex flex-wrap items-end gap-3">
              <TextField label="Left out, because" value={why} onChange={setWhy} />
              <Button
                disabled={why.trim() === ""}
                onClick={() => {
                  onWrite([entryOf("note", { text: why.trim(), about: `proof:${test.code}` })]);
                }}
              >
                Leave it out
              </Button>
            </div>
          )}
        </div>
      ) : null}
    </li>
  );
}
