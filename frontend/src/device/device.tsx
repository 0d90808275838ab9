import { useQueryClient } from "@tanstack/react-query";
import { createContext, useContext, useEffect, useMemo, useState, useSyncExternalStore } from "react";

import { holdJob } from "../api/held-job";
import { keys } from "../api/keys";
import { Outbox, type Waiting } from "./outbox";
import { sendEntries, sendFile } from "./sending";
import { askToKeep, type DeviceStore } from "./store";

const Sent = createContext<Outbox | null>(null);

/** Gives every screen the outbox of this device. */
export function DeviceProvider({ store, children }: { store: Promise<DeviceStore>; children: React.ReactNode }) {
  const queries = useQueryClient();
  const [outbox] = useState(
    () =>
      new Outbox(store, { sendEntries, sendFile }, async (job) => {
        await holdJob(queries, job);
        void queries.invalidateQueries({ queryKey: keys.jobs(), exact: true });
      }),
  );
  useEffect(() => {
    void askToKeep();
    return outbox.start();
  }, [outbox]);
  return <Sent.Provider value={outbox}>{children}</Sent.Provider>;
}

export function useOutbox(): Outbox {
  const outbox = useContext(Sent);
  if (!outbox) throw new Error("There is no outbox around this screen.");
  return outbox;
}

/** What waits on this device now. */
export function useWaiting(): Waiting {
  const outbox = useOutbox();
  return useSyncExternalStore(outbox.subscribe, outbox.snapshot);
}

/** What of one job waits on this device now. */
export function useWaitingOf(jobId: string) {
  const { entries, files, sending } = useWaiting();
  return useMemo(
    () => ({
      entries: entries.filter((w) => w.jobId === jobId),
      files: files.filter((w) => w.jobId === jobId),
      sending,
    }),
    [entries, files, sending, jobId],
  );
}
