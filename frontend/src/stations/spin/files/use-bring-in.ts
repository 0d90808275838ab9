import { useRef, useState } from "react";

import type { Job } from "../../../api/client";
import { useOutbox, useWaitingOf } from "../../../device/device";
import { type Body, entryOf } from "../../../device/entries";
import { uuid7 } from "../../../device/ids";
import { freeName, isLaidSomewhere, type Pending } from "./pending";

export interface BringingIn {
  /** Keep it on this device for the job and send it when there is a signal; `onKept` is told once it is kept. */
  add: (entry: Pending) => Promise<void>;
  /** Those that are still being written to this device: a page that is closed now would lose them. */
  keeping: ReadonlySet<string>;
  /** Those that this device could not keep. */
  unkept: ReadonlySet<string>;
}

/** Recordings into the job: kept here first, then sent, so that neither a lost signal nor a closed tab loses one. */
export function useBringIn(job: Job, onKept: (entry: Pending) => void): BringingIn {
  const outbox = useOutbox();
  const waiting = useWaitingOf(job.id);
  const [unkept, setUnkept] = useState<ReadonlySet<string>>(new Set());
  const [keeping, setKeeping] = useState<ReadonlySet<string>>(new Set());
  // At once, not with the next picture: a thumb may tap twice in between.
  const begun = useRef(new Set<string>());
  // Two files of one name may be on their way at once: their names are told apart for people.
  const names = useRef(new Set<string>());
  const add = async (entry: Pending) => {
    if (begun.current.has(entry.key)) return;
    begun.current.add(entry.key);
    setKeeping(new Set(begun.current));
    const taken = [...job.recordings.map((r) => r.name), ...waiting.files.map((f) => f.name), ...names.current];
    const name = freeName(entry.file.name, taken);
    names.current.add(name);
    const id = uuid7();
    try {
      await outbox.keepFile({
        id,
        jobId: job.id,
        what: "recordings",
        name,
        content: entry.file,
        entry: entryOf("recording", bodyOf(entry, id, name)),
        ...(entry.takeId === undefined ? {} : { takeId: entry.takeId }),
      });
      onKept(entry);
      setUnkept((old) => new Set([...old].filter((key) => key !== entry.key)));
    } catch {
      setUnkept((old) => new Set([...old, entry.key]));
    } finally {
      names.current.delete(name);
      begun.current.delete(entry.key);
      setKeeping(new Set(begun.current));
    }
  };
  return { add, keeping, unkept };
}

function bodyOf(entry: Pending, id: string, name: string): Body<"recording"> {
  const number = (text: string) => (text.trim() === "" ? null : Number(text.replace(",", ".")));
  const body = {
    recording: id,
    file: name,
    kind: entry.kind,
    test: entry.test,
    run: entry.run || null,
    position: isLaidSomewhere(entry.kind) ? entry.position || null : null,
    load: entry.load || null,
    start_s: number(entry.startS),
    power_cut_s: number(entry.powerCutS),
  };
  // Chosen from the catalogue's lists, which are where the types come from as well.
  return body as Body<"recording">;
}
