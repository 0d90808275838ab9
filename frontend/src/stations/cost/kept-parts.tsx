import { useState } from "react";

import type { Job, OfferData } from "../../api/client";
import { useCatalogue } from "../../api/knowledge";
import { type Body, entryOf, takenBack } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { OneChip } from "../../ui/chips";
import { hoursRun } from "../../lib/format";
import { TextField } from "../../ui/field";

type Kept = Body<"kept_part">;
const CONDITIONS = [
  { value: "tested", label: "kept, tested" },
  { value: "looks_sound", label: "kept, looks sound" },
];

/** Parts of a machine that will not run again, for the shelf: each with the test that it has to pass. */
export function KeptParts({ job, offer }: { job: Job; offer: OfferData }) {
  const catalogue = useCatalogue();
  const { write } = useWrite(job.id);
  const [shelf, setShelf] = useState(() => job.stock.kept.at(-1)?.shelf ?? "");
  const [hours, setHours] = useState(() => job.stock.kept.find((k) => k.hours !== null)?.hours?.toString() ?? "");
  const layout = job.machine.layout ?? "";
  const parts = catalogue.data?.again.filter((part) => part.layouts.includes(layout)) ?? [];
  if (parts.length === 0) return null;
  const keep = (part: string, condition: string, on: string, ran: string) => {
    const run = ran === "" ? {} : { hours: Number(ran) };
    return entryOf("kept_part", { part, condition, ...(on ? { shelf: on } : {}), ...run } as Kept);
  };
  // All parts of one machine ran as long as it did.
  const ranFor = (ran: string) => {
    setHours(ran);
    const told = job.stock.kept.filter((k) => (k.hours?.toString() ?? "") !== ran);
    if (told.length > 0) void write(told.map((k) => keep(k.part, k.condition, k.shelf, ran)));
  };
  return (
    <section aria-label="Parts that serve again" className="flex flex-col gap-3 border-t-4 border-ink pt-4">
      <h2 className="text-2xl">Parts that serve again</h2>
      <p className="max-w-prose">
        Kept parts lie on the shop’s shelf and are offered, as used, at machines of this layout. Bearings, seals, belts,
        linings and suspension do not serve again. Cut the cord of what is scrapped where local rules ask for it.
      </p>
      <TextField label="Shelf" autoComplete="off" value={shelf} onChange={setShelf} />
      <TextField
        label="Hours that the machine has run"
        hint="Read off its control, or by how many loads a week it washed. Left empty, nobody knows."
        inputMode="numeric"
        autoComplete="off"
        maxLength={6}
        value={hours}
        onChange={(typed) => {
          setHours(typed.replace(/\D/g, ""));
        }}
        onBlur={() => {
          ranFor(hours);
        }}
      />
      {offer.run.length > 0 ? (
        <OneChip
          label="Loads a week"
          options={offer.run.map((run) => ({
            value: run.hours.toString(),
            label: `${run.loads_a_week.toString()} a week, about ${run.hours.toString()} h`,
          }))}
          value={hours}
          onChange={ranFor}
        />
      ) : null}
      <ul className="flex flex-col">
        {parts.map((part) => {
          const kept = job.stock.kept.find((k) => k.part === part.code);
          return (
            <li key={part.code} className="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-line py-2">
              <p className="min-w-60 flex-1">
                <span className="font-bold">{part.name}</span>
                <span className="block text-sm text-ink-soft">{part.test}</span>
                {kept ? (
                  <span className="block text-sm">
                    {[kept.shelf ? `on ${kept.shelf}` : "", hoursRun(kept.hours)].filter((t) => t !== "").join(", ")}
                  </span>
                ) : null}
              </p>
              <OneChip
                label={part.name}
                options={CONDITIONS}
                value={kept?.condition ?? ""}
                onChange={(condition) => {
                  if (condition !== "") void write([keep(part.code, condition, shelf, hours)]);
                  else if (kept) void write(kept.entries.map((entry) => takenBack("kept_part", entry)));
                }}
              />
            </li>
          );
        })}
      </ul>
    </section>
  );
}
