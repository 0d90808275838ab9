import { Link } from "react-router";

import { useServiceMode } from "../../../api/guiding";
import type { Job } from "../../../api/client";
import { Timed } from "../../timed";

const ABOUT = "proof:p_calib";
const USUAL_MIN = 6;

/** Calibration as the sheet tells it, timed: it is not to be interrupted. */
export function Calibration({ job }: { job: Job }) {
  const mode = useServiceMode(job.id);
  const sheet = mode.data?.sheets.find((s) => s.uuid === mode.data.chosen)?.sheet;
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
      <Timed
        job={job}
        what="calibration"
        about={ABOUT}
        minutes={minutes}
        begin={`It has begun: ${minutes.toFixed(0)} min`}
        over="It should have ended"
        end="It has ended"
      />
    </section>
  );
}
