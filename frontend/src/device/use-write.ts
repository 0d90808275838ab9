import { useCallback, useState } from "react";

import type { AnyEntry } from "./entries";
import { useOutbox, useWaiting } from "./device";
import type { Opens, Refusal } from "./store";

export type Writing =
  | { status: "idle" }
  | { status: "keeping" }
  | { status: "kept" }
  | { status: "not_kept" }
  | { status: "refused"; refusal: Refusal };

/**
 * Write entries into a job's diary. They are kept on this device first, so that nothing is lost without a signal;
 * `writing` tells how far it is, and why the server did not take one of them.
 */
export function useWrite(jobId: string): {
  write: (entries: readonly AnyEntry[], opens?: Opens) => Promise<boolean>;
  writing: Writing;
} {
  const outbox = useOutbox();
  const { entries: waiting } = useWaiting();
  const [ids, setIds] = useState<readonly string[]>([]);
  const [kept, setKept] = useState<"idle" | "keeping" | "kept" | "not_kept">("idle");
  const refused = waiting.find((w) => ids.includes(w.entry.id) && w.refused)?.refused;
  const write = useCallback(
    async (entries: readonly AnyEntry[], opens: Opens = false) => {
      setIds(entries.map((entry) => entry.id));
      setKept("keeping");
      try {
        await outbox.write(jobId, entries, opens);
        setKept("kept");
        return true;
      } catch {
        setKept("not_kept");
        return false;
      }
    },
    [outbox, jobId],
  );
  return { write, writing: refused ? { status: "refused", refusal: refused } : { status: kept } };
}
