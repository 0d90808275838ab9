import { useEffect, useState } from "react";
import { useLocation } from "react-router";

import { useCatalogue } from "../api/knowledge";
import { useWaiting } from "../device/device";
import { takenBack } from "../device/entries";
import { useWrite } from "../device/use-write";
import { entryWords } from "./history/entry-words";

const HEIGHT = "3.25rem";
const SHOWN_MS = 60_000;

/** What was entered last stands at the lower edge for a minute, with one tap to take it back. */
export function UndoLine({ jobId }: { jobId: string }) {
  const { last, entries } = useWaiting();
  const [over, setOver] = useState<typeof last>(null);
  useEffect(() => {
    const timer = setTimeout(() => {
      setOver(last);
    }, SHOWN_MS);
    return () => {
      clearTimeout(timer);
    };
  }, [last]);
  const { write } = useWrite(jobId);
  const catalogue = useCatalogue();
  const here = useLocation().pathname;
  // The history takes anything back by itself.
  const refused = new Set(entries.filter((w) => w.refused).map((w) => w.entry.id));
  const shown = last?.jobId === jobId && last !== over && !here.endsWith("/history");
  const stands = shown ? last.entries.filter((entry) => !refused.has(entry.id)) : [];
  const [first] = stands;
  const hidden = first === undefined;
  // What else stands at the lower edge makes room.
  useEffect(() => {
    document.documentElement.style.setProperty("--undo-line", hidden ? "0px" : HEIGHT);
    return () => {
      document.documentElement.style.removeProperty("--undo-line");
    };
  }, [hidden]);
  if (first === undefined) return null;
  const said = entryWords({ kind: first.kind, body: first.body as Record<string, unknown> | null }, catalogue.data);
  const more = stands.length > 1 ? `, and ${String(stands.length - 1)} more` : "";
  return (
    <div
      style={{ height: HEIGHT }}
      className="sticky bottom-0 z-10 -mx-4 mt-6 flex items-center gap-4 border-t-2 border-ink bg-porcelain px-4 sm:mx-0"
    >
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
