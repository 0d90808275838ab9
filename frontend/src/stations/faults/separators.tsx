import { Link } from "react-router";

import type { Schemas } from "../../api/client";
import { words } from "../../lib/format";

/** What tells two faults apart: each finding with what either would show; `job` leads to the check. */
export function Separators({
  separators,
  one,
  other,
  job,
}: {
  separators: readonly Schemas["SeparatorOut"][];
  one: string;
  other: string;
  job?: string;
}) {
  if (separators.length === 0) return <p>Nothing that is asked for tells them apart.</p>;
  return (
    <ul>
      {separators.map((s) => (
        <li
          key={s.finding}
          className="grid gap-x-4 border-t border-line py-2 sm:grid-cols-[1fr_1fr_1fr] sm:items-baseline"
        >
          <span className="font-bold">
            {job !== undefined && s.check !== null ? (
              <Link to={`/jobs/${job}/hands/${s.check}`} className="inline-flex min-h-12 items-center underline">
                {s.name}
              </Link>
            ) : (
              s.name
            )}
          </span>
          <span>
            {one}: {words(s.one)}
          </span>
          <span>
            {other}: {words(s.other)}
          </span>
        </li>
      ))}
    </ul>
  );
}
