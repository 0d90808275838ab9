import { useState } from "react";

import type { Job } from "../../api/client";
import { useCatalogue } from "../../api/queries";
import { type Body, entryOf, takenBack } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { OneChip } from "../../ui/chips";
import { TextField } from "../../ui/field";

type Kept = Body<"kept_part">;
const CONDITIONS = [
  { value: "tested", label: "kept, tested" },
  { value: "looks_sound", label: "kept, looks sound" },
];

/** Parts of a machine that will not run again, for the shelf: each with the test that it has to pass. */
export function KeptParts({ job }: { job: Job }) {
  const catalogue = useCatalogue();
  const { write } = useWrite(job.id);
  const [shelf, setShelf] = useState("");
  const layout = job.machine.layout ?? "";
  const parts = catalogue.data?.again.filter((part) => part.layouts.includes(layout)) ?? [];
  if (parts.length === 0) return null;
  return (
    <section aria-label="Parts that serve again" className="flex flex-col gap-3 border-t-4 border-ink pt-4">
      <h2 className="text-2xl">Parts that serve again</h2>
      <p className="max-w-prose">
        Kept parts lie on the shop’s shelf and are offered, as used, at machines of this layout. Bearings, seals, belts,
        linings and suspension do not serve again. Cut the cord of what is scrapped where local rules ask for it.
      </p>
      <TextField label="Shelf" autoComplete="off" value={shelf} onChange={setShelf} />
      <ul className="flex flex-col">
        {parts.map((part) => {
          const kept = job.stock.kept.find((k) => k.part === part.code);
          return (
            <li key={part.code} className="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-line py-2">
              <p className="min-w-60 flex-1">
                <span className="font-bold">{part.name}</span>
                <span className="block text-sm text-ink-soft">{part.test}</span>
                {kept?.shelf ? <span className="block text-sm">On {kept.shelf}</span> : null}
              </p>
              <OneChip
                label={part.name}
                options={CONDITIONS}
                value={kept?.condition ?? ""}
                onChange={(condition) => {
                  if (condition === "") {
                    if (kept) void write([takenBack("kept_part", kept.entry)]);
                    return;
                  }
                  const body = { part: part.code, condition, ...(shelf ? { shelf } : {}) } as Kept;
                  void write([entryOf("kept_part", body)]);
                }}
              />
            </li>
          );
        })}
      </ul>
    </section>
  );
}
