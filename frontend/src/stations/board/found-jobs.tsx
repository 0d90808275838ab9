import type { JobShort } from "../../api/client";
import { useCatalogue } from "../../api/knowledge";
import { useFound, type Wish } from "../../api/found";
import { useSettled } from "../../lib/looking-for";
import { Button } from "../../ui/button";
import { ChoiceField, TextField } from "../../ui/field";
import { WAITS } from "./groups";
import { matches } from "./looking";
import { JobRow } from "./job-cards";

export function LookFor({
  q,
  onQ,
  layout,
  onLayout,
}: {
  q: string;
  onQ: (q: string) => void;
  layout: string;
  onLayout: (layout: string) => void;
}) {
  const catalogue = useCatalogue();
  return (
    <search className="grid grid-cols-[1fr_9rem] gap-3 pb-5 sm:grid-cols-[1fr_18rem]">
      <TextField
        label="Look for"
        type="search"
        placeholder="place, person, symptom, part, a word of a note"
        value={q}
        onChange={onQ}
      />
      <ChoiceField
        label="Kind of machine"
        value={layout}
        empty="every kind"
        options={(catalogue.data?.layouts ?? []).map((l) => ({ value: l.code, label: l.name }))}
        onChange={onLayout}
      />
    </search>
  );
}

/** What was looked for, a page at a time; without a signal, what this device knows of it. */
export function Found({ wish, here }: { wish: Wish; here: readonly JobShort[] }) {
  const settled = useSettled(wish);
  const found = useFound(settled);
  const pages = found.data?.pages ?? [];
  // Paused: asked again once there is a signal.
  const cut = found.isError || found.fetchStatus === "paused";
  const jobs = cut ? here.filter((job) => matches(job, wish)) : pages.flatMap((p) => p.jobs);
  const name = WAITS.find((w) => w.wait === wish.waits_for)?.name ?? "Found";
  return (
    <section aria-label={name} className="pb-6">
      <h2 className="pb-2 text-xl">{name}</h2>
      {cut ? <p className="pb-2">No signal: only what was opened on this device lately is looked through.</p> : null}
      {jobs.length === 0 && !found.isFetching ? (
        <p role="status">Nothing holds all of that. Try fewer words, or their beginnings.</p>
      ) : null}
      <ul className="flex flex-col gap-2">
        {jobs.map((job) => (
          <JobRow key={job.id} job={job} />
        ))}
      </ul>
      {found.hasNextPage ? (
        <Button
          className="mt-3"
          disabled={found.isFetchingNextPage}
          onClick={() => {
            void found.fetchNextPage();
          }}
        >
          Older ones
        </Button>
      ) : null}
    </section>
  );
}
