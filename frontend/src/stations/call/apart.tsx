import { Link } from "react-router";

import type { Job, Result } from "../../api/client";
import { useApart } from "../../api/knowledge";
import { Separators } from "../faults/separators";

/** The first two suspects by only what separates them. */
export function Apart({ job, result }: { job: Job; result: Result }) {
  const [one, other] = result.suspects.filter((s) => s.fault !== "none");
  const layout = job.machine.layout ?? "";
  const apart = useApart(layout, one?.fault ?? "", other?.fault ?? "");
  if (!one || !other || !apart.data) return null;
  return (
    <section aria-label="What tells the first two apart" className="border-t-2 border-line pt-4">
      <h2 className="pb-2 text-xl">
        {one.short} or {other.short.toLowerCase()}?
      </h2>
      <Separators
        separators={apart.data.separators}
        one={one.short.toLowerCase()}
        other={other.short.toLowerCase()}
        job={job.id}
      />
      <p className="flex flex-wrap gap-x-5 pt-1">
        {[one, other].map((s) => (
          <Link
            key={s.fault}
            to={`/faults/${layout}/${s.fault}`}
            className="inline-flex min-h-12 items-center underline"
          >
            {s.short}: how it sounds, how it is mended
          </Link>
        ))}
      </p>
    </section>
  );
}
