import { useState } from "react";
import { Link } from "react-router";

import { useChooseSheet, useServiceMode } from "../../api/guiding";
import type { Job, ServiceModeData } from "../../api/client";
import { useCatalogue } from "../../api/knowledge";
import { useWrite } from "../../device/use-write";
import { Button } from "../../ui/button";
import { OneChip } from "../../ui/chips";
import { Fetching } from "../../ui/fetching";
import { useFramedJob } from "../job-frame";
import { Photo } from "../photos";
import { Timed } from "../timed";
import { Coach } from "./guides/coach";
import { ComponentTest } from "./guides/component-test";
import { SheetForm } from "./guides/sheet-form";

type Kept = ServiceModeData["sheets"][number];

/** The machine's own service mode: its sheet, the way in against its time limit, its own test row by row. */
export function ServiceModePage() {
  const job = useFramedJob();
  const mode = useServiceMode(job.id);
  const catalogue = useCatalogue();
  const choose = useChooseSheet(job.id);
  const { write } = useWrite(job.id);
  const [reading, setReading] = useState(false);
  if (!mode.data || !catalogue.data) return <Fetching what="the service mode" failed={mode.isError} />;
  const sheet = mode.data.sheets.find((s) => s.uuid === mode.data.chosen) ?? null;
  return (
    <div className="flex max-w-4xl flex-col gap-7">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h1 className="text-3xl">The machine’s own test</h1>
        <Link to={`/jobs/${job.id}/proof`} className="inline-flex min-h-12 items-center underline underline-offset-4">
          all proofs
        </Link>
      </div>
      <p className="hazard sheet max-w-prose py-3 pr-3">
        <strong>Caution.</strong> The drum turns, valves open and the heater may draw current by themselves. Covers on,
        lid shut, hands and cloth away; the lock stays as it is.
      </p>
      {mode.data.layout === null ? <p>Which machine it is, is not told yet: its sheet is kept with its kind.</p> : null}
      {mode.data.layout !== null ? (
        <section aria-label="Sheet" className="flex flex-col gap-3">
          <h2 className="text-2xl">{sheet ? sheet.sheet.name : "Its sheet"}</h2>
          {mode.data.sheets.length > (sheet ? 1 : 0) ? (
            <OneChip
              label="The sheet of this machine"
              options={mode.data.sheets.map((s) => ({ value: s.uuid, label: s.sheet.name }))}
              value={mode.data.chosen ?? ""}
              onChange={(value) => {
                choose.mutate(value === "" ? null : value);
              }}
            />
          ) : sheet ? null : (
            <p>No sheet of such a machine was read in this shop yet.</p>
          )}
          {reading ? (
            <SheetForm
              key={sheet?.uuid ?? "new"}
              job={job}
              sheet={sheet}
              onKept={() => {
                setReading(false);
              }}
            />
          ) : (
            <Button
              className="self-start"
              onClick={() => {
                setReading(true);
              }}
            >
              {sheet ? "Read it again" : "Read its sheet"}
            </Button>
          )}
        </section>
      ) : null}
      {sheet && !reading ? <WayIn job={job} kept={sheet} /> : null}
      <section className="flex flex-col gap-3">
        <h2 className="text-2xl">Row by row</h2>
        {sheet?.sheet.auto_test ? (
          <p>
            To start it: {sheet.sheet.auto_test} {sheet.sheet.start}
          </p>
        ) : null}
        <ComponentTest job={job} mode={mode.data} catalogue={catalogue.data} onWrite={(entries) => write(entries)} />
      </section>
    </div>
  );
}

function WayIn({ job, kept }: { job: Job; kept: Kept }) {
  const { sheet } = kept;
  const slots = [
    ["Before", sheet.before],
    ["Keeps it from starting", sheet.blocked_by],
    ["It worked when", sheet.confirm],
    ["Codes", sheet.codes],
    ["A spin", sheet.spin],
    ["Calibration", sheet.calibration],
    ["Stop", sheet.stop],
    ["Leave", sheet.leave],
  ].filter(([, says]) => says);
  return (
    <section aria-label="Way in" className="flex flex-col gap-4">
      <h2 className="text-2xl">The way in</h2>
      <dl className="grid max-w-prose grid-cols-[auto_1fr] gap-x-4 gap-y-1">
        {slots.map(([name, says]) => (
          <div key={name} className="contents">
            <dt className="font-bold">{name}</dt>
            <dd>{says}</dd>
          </div>
        ))}
      </dl>
      {sheet.settle_s ? (
        <Timed
          job={job}
          what="settle"
          about={SETTLE}
          minutes={sheet.settle_s / 60}
          begin={`Plugged in: wait ${sheet.settle_s.toFixed(0)} s`}
          over="Settled"
          end="Go on"
        />
      ) : null}
      <Coach beat={kept.beat} />
      <p className="max-w-prose text-ink-soft">
        A wait is not a failed spin: draining, sensing and the lock come first. After a spin the lock opens within{" "}
        {(sheet.unlock_s ?? 60).toFixed(0)} s.
      </p>
      <details>
        <summary className="min-h-12 cursor-pointer py-3 underline underline-offset-4">The photographed sheet</summary>
        <Photo
          jobId={kept.photo_job}
          photo={sheet.photo}
          words={kept.changed_by ? `read by ${kept.changed_by}` : "as read"}
        />
      </details>
    </section>
  );
}

const SETTLE = "proof:auto_test:settle";
