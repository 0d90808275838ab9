import { Link } from "react-router";

import { useServiceMode } from "../../../api/guiding";
import type { Job } from "../../../api/client";
import { entryOf } from "../../../device/entries";
import { useWrite } from "../../../device/use-write";
import { leftOf, useNow } from "../../../lib/now";
import { Button } from "../../../ui/button";

const ABOUT = "proof:p_calib";
const USUAL_MIN = 6;

/** Calibration as the sheet tells it, timed: it is not to be interrupted. */
export function Calibration({ job }: { job: Job }) {
  const mode = useServiceMode(job.id);
  const { write } = useWrite(job.id);
  const sheet = mode.data?.sheets.find((s) => s.uuid === mode.data.chosen)?.sheet;
  const timer = job.any_time.timers.find((t) => t.about === ABOUT);
  const now = useNow(timer !== undefined);
  const left = timer ? leftOf(timer.rings_at, now) : null;
  const minutes = sheet?.calibration_min ?? USUAL_MIN;
  return (
    <section aria-label="Calibration" className="flex flex-col gap-3">
      <ol className="list-decimal pl-6">
        <li>Drum empty, machine level, lid shut, taps as the sheet says.</li>
        <li>
          {sheet?.calibration ? (
            sheet.calibration
          ) : (
            <>
              As its sheet says: none of this machine was read yet.{" "}
              <Link className="underline underline-offset-4" to={`/jobs/${job.id}/proof/service-mode`}>
                Read its sheet
              </Link>
            </>
          )}
        </li>
        <li>Not touched until it ends with its pattern of lamps and lets go.</li>
      </ol>
      {timer && left ? (
        <div className="flex flex-wrap items-center gap-4">
          <p role="timer" className="font-mono text-3xl font-bold">
            {left.over ? "It should have ended" : left.text}
          </p>
          <Button
            onClick={() => {
              void write([entryOf("timer_end", { timer: timer.entry, how: left.over ? "rang" : "cut_short" })]);
            }}
          >
            It has ended
          </Button>
        </div>
      ) : (
        <Button
          className="self-start"
          onClick={() => {
            void write([entryOf("timer", { for: "calibration", minutes, about: ABOUT })]);
          }}
        >
          It has begun: {minutes.toFixed(0)} min
        </Button>
      )}
    </section>
  );
}
