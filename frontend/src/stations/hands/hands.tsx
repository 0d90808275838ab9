import { Link } from "react-router";

import type { CheckSpec } from "../../api/client";
import { useCatalogue } from "../../api/knowledge";
import { OneChip } from "../../ui/chips";
import { FetchingLists } from "../../ui/fetching";
import { useFramedJob } from "../job-frame";
import { MadeSafe } from "../story/made-safe";
import { ACCESS, ACCESS_NAMES, type Access } from "./order";
import { useOrder } from "./use-order";
import { readingWords } from "./values";

/** Hand checks of this layout, from how the machine now stands: what tells most in a minute first. */
export function Hands() {
  const job = useFramedJob();
  const catalogue = useCatalogue();
  const { now, setNow, groups, best } = useOrder(job, catalogue.data);
  if (!catalogue.data) return <FetchingLists failed={catalogue.isError} />;
  const first = best();
  return (
    <div className="flex flex-col gap-5">
      <h1 className="text-3xl">Power off, hands on</h1>
      <MadeSafe job={job} />
      <div>
        <h2 className="pb-2 text-xl">How it stands now</h2>
        <OneChip
          label="How it stands now"
          options={ACCESS.map((value) => ({ value, label: ACCESS_NAMES[value] }))}
          value={now}
          onChange={(value) => {
            if (value !== "") setNow(value as Access);
          }}
        />
      </div>
      {groups.map((group) => (
        <section key={group.access} aria-label={group.access === now ? "As it stands" : ACCESS_NAMES[group.access]}>
          <h2 className="pb-2 text-xl">
            {group.access === now ? "As it stands" : `${ACCESS_NAMES[group.access]}: then also`}
          </h2>
          <ul className="grid gap-2 md:grid-cols-2">
            {group.checks.map((check) => (
              <CheckLink key={check.code} check={check} best={check === first} />
            ))}
          </ul>
        </section>
      ))}
      {job.machine.layout != null ? (
        <p>
          An electronic machine can test itself, lid shut:{" "}
          <Link
            className="inline-flex min-h-12 items-center underline underline-offset-4"
            to={`/jobs/${job.id}/proof/service-mode`}
          >
            its own test, row by row
          </Link>
        </p>
      ) : null}
    </div>
  );
}

function CheckLink({ check, best }: { check: CheckSpec; best: boolean }) {
  const job = useFramedJob();
  const done = job.checks.filter((c) => c.check === check.code);
  return (
    <li>
      <Link
        to={check.code}
        className={`sheet flex min-h-16 flex-wrap items-center gap-x-3 px-4 py-2 hover:border-ink ${best ? "border-ink" : ""}`}
      >
        <span className="text-lg font-bold">{check.name}</span>
        {best ? <span className="bg-marigold px-2 text-sm font-bold text-on-marigold">tells most now</span> : null}
        <span className="ml-auto text-right">
          {done.length > 0 ? (
            <span className="font-mono">{done.map((c) => readingWords(check.values, c.values)).join("; ")}</span>
          ) : (
            <span className="text-sm text-ink-soft">{check.minutes.toFixed(0)} min</span>
          )}
        </span>
      </Link>
    </li>
  );
}
