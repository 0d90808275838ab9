import { useLocation } from "react-router";

import { useCatalogue } from "../api/queries";
import { useWaiting } from "../device/device";
import { takenBack } from "../device/entries";
import { useWrite } from "../device/use-write";
import { entryWords } from "./history/entry-words";

/** What was entered last stands at the lower edge until the next, with one tap to take it back. */
export function UndoLine({ jobId }: { jobId: string }) {
  const { last, entries } = useWaiting();
  const { write } = useWrite(jobId);
  const catalogue = useCatalogue();
  const here = useLocation().pathname;
  // The history takes anything back by itself.
  if (last?.jobId !== jobId || here.endsWith("/history")) return null;
  const refused = new Set(entries.filter((w) => w.refused).map((w) => w.entry.id));
  const stands = last.entries.filter((entry) => !refused.has(entry.id));
  const [first] = stands;
  if (!first) return null;
  const said = entryWords({ kind: first.kind, body: first.body as Record<string, unknown> | null }, catalogue.data);
  const more = stands.length > 1 ? `, and ${String(stands.length - 1)} more` : "";
  return (
    <div className="sticky bottom-0 z-10 -mx-4 mt-6 flex items-center gap-4 border-t-2 border-ink bg-porcelain px-4 sm:mx-0">
      <p role="status" className="mr-auto line-clamp-2 text-sm">
        Kept. {said}
        {more}
      </p>
      <button
        type="button"
        className="min-h-12 flex-none px-2 font-bold underline underline-offset-4"
        onClick={() => {
          void write([...stands].reverse().map((entry) => takenBack(entry.kind, entry.id)));
        }}
      >
        Undo
      </button>
    </div>
  );
}
