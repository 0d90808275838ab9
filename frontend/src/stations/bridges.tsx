import type { Job } from "../api/client";
import { entryOf } from "../device/entries";
import { useWrite } from "../device/use-write";
import { Button } from "../ui/button";

/** Interlocks that somebody bridged: on every screen of the job until their restoring is logged. */
export function Bridges({ job }: { job: Job }) {
  const { write } = useWrite(job.id);
  return job.any_time.bridged.map((bridge) => (
    <div key={bridge.entry} role="alert" className="sheet hazard mt-4 flex flex-wrap items-center gap-x-4 py-3 pr-4">
      <p className="mr-auto">
        <strong>An interlock is bridged: {bridge.where}.</strong> Restore it before anybody runs the machine. The job
        cannot be closed until that is logged.
      </p>
      <Button
        onClick={() => {
          void write([entryOf("restored", { restored: bridge.entry })]);
        }}
      >
        It is restored
      </Button>
    </div>
  ));
}
