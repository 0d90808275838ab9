import { useState } from "react";

import type { Catalogue, Job, Result } from "../../api/client";
import { type Body, entryOf } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { Button } from "../../ui/button";
import { ManyChips } from "../../ui/chips";
import { TextField } from "../../ui/field";

type Fault = Body<"called">["faults"][number];
type Advice = NonNullable<Body<"called">["advice"]>;

/** What the technician goes by, as called or otherwise: kept, and later held against what was really found. */
export function OwnView({ job, result, catalogue }: { job: Job; result: Result; catalogue: Catalogue | undefined }) {
  const { write, writing } = useWrite(job.id);
  const [open, setOpen] = useState(false);
  const [faults, setFaults] = useState<string[]>([]);
  const [why, setWhy] = useState("");
  const named = (code: string) => catalogue?.faults.find((f) => f.code === code)?.name ?? code;
  const leader = result.suspects[0]?.fault ?? "none";
  const { called } = job;
  const departs = called !== null && !called.faults.includes(leader);
  const say = (chosen: readonly string[], view: string) => {
    const body = { faults: [...chosen] as Fault[], advice: result.advice as Advice };
    void write([entryOf("called", view ? { ...body, own_view: view.slice(0, 2000) } : body)]);
    setOpen(false);
  };
  return (
    <section aria-label="What you go by" className="flex flex-col gap-3 border-t-2 border-line pt-4">
      <h2 className="text-xl">What you go by</h2>
      <p>
        {called === null
          ? "Not said yet. It is held against what is found inside, beside the product’s own call."
          : `${called.faults.map(named).join(", ")}${called.own_view ? `: ${called.own_view}` : ""}.`}
        {departs ? ` That is not ${named(leader).toLowerCase()}, and it is kept so.` : ""}
      </p>
      {open ? (
        <>
          <ManyChips
            label="What it is, by your own view"
            options={result.suspects.slice(0, 12).map((s) => ({ value: s.fault, label: s.short }))}
            value={faults}
            onChange={setFaults}
          />
          <TextField label="Why" value={why} onChange={setWhy} />
          <Button
            weight="strong"
            disabled={faults.length === 0 || writing.status === "keeping"}
            onClick={() => {
              say(faults, why.trim());
            }}
          >
            Go by this
          </Button>
        </>
      ) : (
        <div className="flex flex-wrap gap-3">
          <Button
            onClick={() => {
              say([leader], "");
            }}
          >
            As called
          </Button>
          <Button
            onClick={() => {
              setFaults(called?.faults ?? []);
              setOpen(true);
            }}
          >
            My own view
          </Button>
        </div>
      )}
    </section>
  );
}
