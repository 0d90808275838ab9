import { useEffect, useState } from "react";

import { useOutbox, useWaiting } from "../device/device";
import { fullness } from "../device/store";
import { waitingWords } from "../lib/waiting-words";

const NEARLY_FULL = 0.9;

/** What waits on this device for a signal, what the server would not take, and whether there is still room. */
export function WaitingLine() {
  const waiting = useWaiting();
  const outbox = useOutbox();
  const full = useFullness(waiting.files.length);
  const words = waitingWords(waiting);
  const refused = waiting.entries.filter((w) => w.refused);
  return (
    <div className="flex flex-col gap-2">
      {words ? (
        <p role="status" className="border-l-8 border-dashed border-ink pl-3">
          {words}
        </p>
      ) : null}
      {waiting.clock ? (
        <p role="status" className="sheet hazard py-2 pr-3">
          {waiting.clock} Set the clock of this device.
        </p>
      ) : null}
      {full !== null && full > NEARLY_FULL ? (
        <p role="alert" className="sheet hazard py-2 pr-3">
          <strong>This device is nearly full.</strong> What is kept stays safe, but a further recording may not fit:
          make room, or go where there is a signal.
        </p>
      ) : null}
      {refused.map((w) => (
        <div key={w.key} role="alert" className="sheet hazard flex flex-wrap items-center gap-x-4 py-2 pr-4">
          <p className="mr-auto">
            <span className="font-bold">An entry was not taken: {w.refused?.message}</span> Everything else is kept.
          </p>
          <button
            type="button"
            className="min-h-12 px-2 font-bold underline underline-offset-4"
            onClick={() => {
              if (w.key !== undefined) void outbox.dropEntry(w.key);
            }}
          >
            Let it go
          </button>
        </div>
      ))}
    </div>
  );
}

function useFullness(changes: number): number | null {
  const [full, setFull] = useState<number | null>(null);
  useEffect(() => {
    void fullness().then(setFull);
  }, [changes]);
  return full;
}
