import { Link } from "react-router";

import { ServerSaid } from "../../api/client";
import { useCatalogue } from "../../api/knowledge";
import { useProof } from "../../api/repairs";
import { useWrite } from "../../device/use-write";
import { Fetching } from "../../ui/fetching";
import { Trouble } from "../../ui/trouble";
import { useFramedJob } from "../job-frame";
import { BeforeAfter } from "./before-after";
import { Closing } from "./closing";
import { saidOf, Tests } from "./tests";

/** The repair proved on the machine, against the same machine before; then the job is closed. */
export function Proof() {
  const job = useFramedJob();
  const catalogue = useCatalogue();
  const { write, writing } = useWrite(job.id);
  const proof = useProof(job.id, job.seq, job.measuring.state);
  if (!proof.data || !catalogue.data) {
    if (proof.error instanceof ServerSaid) {
      return <Trouble title={proof.error.message} safe="Nothing is lost." next="Go to Story and say what it is." />;
    }
    return <Fetching what="the proofs" failed={proof.isError} />;
  }
  const { tests, before_after: compared, waiting } = proof.data;
  const needed = tests.filter((t) => !t.optional);
  const passed = needed.filter((t) => saidOf(job, t) === "passed").length;
  const failed = tests.some((t) => saidOf(job, t) === "failed");
  return (
    <div className="flex max-w-4xl flex-col gap-6 xl:max-w-none">
      <header>
        <h1 className="text-[1.6rem] sm:text-[2rem]">
          {failed
            ? "A proof failed: the call is open again."
            : passed === needed.length && needed.length > 0
              ? "Proved on the machine."
              : `${String(passed)} of ${String(needed.length)} proofs passed.`}
        </h1>
        {failed ? (
          <p className="pt-2">
            What was recorded and checked since the repair is what the{" "}
            <Link className="underline underline-offset-4" to={`/jobs/${job.id}/call`}>
              call
            </Link>{" "}
            now rests on.
          </p>
        ) : null}
      </header>
      {compared ? (
        <BeforeAfter compared={compared} jobId={job.id} />
      ) : (
        <p className="border-l-8 border-double border-ink-soft py-1 pl-4">
          {waiting}{" "}
          {job.any_time.closed === null ? (
            <Link className="underline underline-offset-4" to={`/jobs/${job.id}/spin`}>
              Record
            </Link>
          ) : null}
        </p>
      )}
      <div className="flex flex-col gap-6 xl:grid xl:grid-cols-[minmax(0,1fr)_27rem] xl:items-start xl:gap-10">
        <div className="flex min-w-0 flex-col gap-6">
          <Tests
            job={job}
            proof={proof.data}
            onWrite={(entries) => {
              void write(entries);
            }}
          />
          {writing.status === "not_kept" ? (
            <Trouble title="This device could not keep that." safe="What was kept before is still there." />
          ) : null}
        </div>
        <Closing job={job} proof={proof.data} catalogue={catalogue.data} />
      </div>
    </div>
  );
}
