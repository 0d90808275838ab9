import { Link } from "react-router";

import type { Job, ProofData } from "../../../api/client";
import type { AnyEntry } from "../../../device/entries";
import { Calibration } from "./calibration";
import { LeakLevels } from "./leak-levels";
import { Marks } from "./marks";
import { WetLoad } from "./wet-load";

type Test = ProofData["tests"][number]["test"];
interface Props {
  job: Job;
  test: Test;
  proof: ProofData;
  onWrite: (entries: readonly AnyEntry[]) => void;
}

/** What leads through a proof at the machine; null for those that need no leading. */
export function Guide({ job, test, proof, onWrite }: Props) {
  if (test.levels.length > 0) return <LeakLevels job={job} test={test} onWrite={onWrite} />;
  switch (test.code) {
    case "p_load":
    case "loaded_wash":
      return <WetLoad job={job} cloths={proof.cloths} />;
    case "p_witness":
      return <Marks job={job} marks={proof.marks} onWrite={onWrite} />;
    case "p_calib":
      return <Calibration job={job} />;
    case "p_empty":
      return (
        <p>
          Where the phone lay before, on the same floor.{" "}
          <Link className="underline underline-offset-4" to={`/jobs/${job.id}/spin`}>
            Record the spin
          </Link>
        </p>
      );
    case "auto_test":
      return (
        <p>
          <Link
            className="inline-flex min-h-12 items-center underline underline-offset-4"
            to={`/jobs/${job.id}/proof/service-mode`}
          >
            Into the service mode, row by row
          </Link>
        </p>
      );
    default:
      return null;
  }
}

/** Tests that their guide settles: passed and failed are not tapped beside it. */
export function settlesItself(test: Test): boolean {
  return test.levels.length > 0 || test.code === "p_witness" || test.code === "auto_test";
}
