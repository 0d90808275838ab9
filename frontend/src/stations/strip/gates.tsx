import { useState } from "react";

import type { Job, StripData } from "../../api/client";
import { entryOf } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { useWaitingOf } from "../../device/device";
import { Button } from "../../ui/button";
import { TextField } from "../../ui/field";
import { Trouble } from "../../ui/trouble";
import { gatesHere } from "./gates-here";
import { uneven, type Placed } from "./strip-state";

/** What must hold before power returns, as the diary tells it; nothing here is ticked. */
export function Gates({ job, plan, steps }: { job: Job; plan: StripData; steps: readonly Placed[] }) {
  const { write, writing } = useWrite(job.id);
  const waits = useWaitingOf(job.id).entries.length > 0;
  const [why, setWhy] = useState("");
  const gates = waits ? gatesHere(job, plan) : plan.gates.filter((g) => g.code !== "no_way_back");
  const open = gates.filter((g) => g.missing !== "");
  const bridged = job.any_time.bridged.length > 0;
  const goingBack = job.strip.steps.some((s) => s.way === "on");
  const inTray = uneven(job, steps);
  return (
    <details aria-label="Before power returns" open={goingBack} className="sheet p-4">
      <summary className="min-h-12 cursor-pointer py-2 font-voice text-xl font-semibold">
        Before power returns{" "}
        {gates.length > 0 ? (
          <span className="font-mono text-base font-normal">
            {gates.length - open.length}/{gates.length}
          </span>
        ) : null}
      </summary>
      <div className="flex flex-col gap-3">
        {gates.length === 0 ? <p>Nothing is open.</p> : null}
        <ul className="flex flex-col gap-2">
          {gates.map((gate) => (
            <li key={gate.code} className="flex gap-3">
              <span aria-hidden="true" className="font-mono font-bold">
                {gate.missing === "" ? "✓" : "○"}
              </span>
              <span>
                <span className={gate.missing === "" ? "text-ink-soft" : "font-bold"}>{gate.asks}</span>
                {gate.missing === "" ? (
                  <span className="sr-only">: passed</span>
                ) : (
                  <span className="block">{gate.missing}</span>
                )}
              </span>
            </li>
          ))}
        </ul>
        {inTray.map((text) => (
          <p key={text} className="font-bold">
            {text}
          </p>
        ))}
        {waits ? <p role="status">Not sent yet: told from what is kept on this device.</p> : null}
        {open.length > 0 && !bridged ? (
          <TextField label="Why the power comes back before that" value={why} onChange={setWhy} />
        ) : null}
        {bridged ? (
          <p className="font-bold">A bridged interlock is restored first: no reason opens this gate.</p>
        ) : null}
        {writing.status === "refused" ? (
          <Trouble title={writing.refusal.message} safe="The power is still logged as off." />
        ) : null}
        <Button
          weight="strong"
          disabled={bridged || (open.length > 0 && why.trim() === "")}
          onClick={() => {
            void write([entryOf("power_back", why.trim() ? { why: why.trim() } : {})]).then(() => {
              setWhy("");
            });
          }}
        >
          Power back on
        </Button>
      </div>
    </details>
  );
}
