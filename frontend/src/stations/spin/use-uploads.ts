import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";

import type { Job, Recording } from "../../api/client";
import { keys } from "../../api/queries";
import { upload, withQuery } from "../../api/upload";
import { freeName, isLaidSomewhere, type Pending } from "./pending";

export type Sending =
  { status: "idle" } | { status: "sending"; share: number; cancel: () => void } | { status: "refused"; say: string };

const IDLE: Sending = { status: "idle" };

/** Files on their way to the server, each with its own progress; `onSent` is told once one is stored there. */
export function useUploads(
  job: Job,
  onSent: (entry: Pending) => void,
): { of: (entry: Pending) => Sending; send: (entry: Pending) => Promise<void> } {
  const [sendings, setSendings] = useState<ReadonlyMap<string, Sending>>(new Map());
  const queries = useQueryClient();
  // Two files of one name may be under way at once: neither may take the other's place.
  const names = useRef(new Set<string>());
  const set = (entry: Pending, next: (before: Sending) => Sending) => {
    setSendings((old) => new Map(old).set(entry.key, next(old.get(entry.key) ?? IDLE)));
  };
  const send = async (entry: Pending) => {
    const name = freeName(entry.file.name, [...job.recordings.map((r) => r.name), ...names.current]);
    names.current.add(name);
    const task = upload<Recording>({
      url: withQuery(`/api/jobs/${String(job.id)}/recordings`, {
        name,
        kind: entry.kind,
        test: entry.test,
        position: isLaidSomewhere(entry.kind) ? entry.position : "",
        load: entry.load,
        run: entry.run,
        start_s: entry.startS.replace(",", "."),
        power_cut_s: entry.powerCutS.replace(",", "."),
      }),
      file: entry.file,
      onProgress: (share) => {
        set(entry, (s) => (s.status === "sending" ? { ...s, share } : s));
      },
    });
    set(entry, () => ({ status: "sending", share: 0, cancel: task.cancel }));
    try {
      await task.done;
      await queries.invalidateQueries({ queryKey: keys.job(job.id) });
      onSent(entry);
      set(entry, () => IDLE);
    } catch (error) {
      set(entry, () => ({
        status: "refused",
        say: error instanceof Error ? error.message : "The file could not be sent.",
      }));
    } finally {
      names.current.delete(name);
    }
  };
  return { of: (entry) => sendings.get(entry.key) ?? IDLE, send };
}
