import type { Job, Schemas } from "../api/client";
import { useCatalogue } from "../api/knowledge";
import { type EntryKind, takenBack } from "../device/entries";
import { useWrite } from "../device/use-write";
import { saidBy } from "../lib/format";
import { Button } from "../ui/button";
import { subjectWords } from "./history/subject-words";

/** Two devices said different things of one subject at about the same time: a person picks which one counts. */
export function Disagreements({ job }: { job: Job }) {
  const { write } = useWrite(job.id);
  const catalogue = useCatalogue();
  return job.disagreements.map((d) => (
    <section
      key={`${d.kind} ${d.subject}`}
      aria-label="Two devices disagree"
      className="sheet mt-4 flex flex-col gap-2 border-l-8 border-l-marigold p-4"
    >
      <p className="font-bold">
        Two devices say different things of {subjectWords(d.kind, d.subject, catalogue.data)}. Which is right?
      </p>
      <div className="flex flex-wrap gap-3">
        {[0, 1].map((i) => (
          <Button
            key={i}
            onClick={() => {
              const other = d.entries[1 - i];
              if (typeof other === "string") void write([takenBack(d.kind as EntryKind, other)]);
            }}
          >
            {said(d, i)}
          </Button>
        ))}
      </div>
    </section>
  ));
}

function said(d: Schemas["Disagreement"], i: number): string {
  const value: unknown = d.values[i];
  const text = typeof value === "object" && value !== null ? saidBy(value as Record<string, unknown>) : String(value);
  return `${text} (${String(d.devices[i] ?? "") || "earlier"})`;
}
