import { useEffect, useRef, useState } from "react";

import type { Catalogue, Job } from "../../../api/client";
import { Button } from "../../../ui/button";
import { Trouble } from "../../../ui/trouble";
import { forgetTake, type KeptContent, type KeptTake, keptTakes } from "../live/keep";
import { filesOf, isNothing, KeptTakes } from "../live/kept-takes";
import { LivePanel } from "../live/live-panel";
import type { Ended } from "../live/session";
import { useLive } from "../live/use-live";
import { changed, freeRun, type Pending, pendingOf } from "./pending";
import { PendingRow } from "./pending-row";
import { useBringIn } from "./use-bring-in";
import { WaitingFiles } from "./waiting-files";

/** Record here or drop files in, say where the phone was and what was in the drum, send. */
export function AddRecordings({ job, catalogue }: { job: Job; catalogue: Catalogue }) {
  const [pending, setPending] = useState<Pending[]>([]);
  const [over, setOver] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const take = (files: FileList | null) => {
    const fresh = Array.from(files ?? []).map((file) => pendingOf(file, pending[0]));
    setPending((old) => [...old.filter((p) => !fresh.some((f) => f.key === p.key)), ...fresh]);
  };
  const remove = (key: string) => {
    setPending((old) => old.filter((p) => p.key !== key));
  };
  const [changes, setChanges] = useState(0);
  const [trouble, setTrouble] = useState<string | null>(null);
  const bringIn = (kept: KeptTake, unkept?: KeptContent) => {
    filesOf(kept, unkept).then(
      (files) => {
        const run = freeRun(job.recordings.map((r) => r.run));
        const isUnkept = unkept !== undefined && !isNothing(unkept);
        setPending((old) => [
          ...old,
          ...files.map((file) => ({ ...pendingOf(file, old[0]), run, takeId: kept.id, isUnkept })),
        ]);
      },
      () => {
        setTrouble("The recording could not be read back from this device.");
      },
    );
  };
  const recorded = ({ takeId, unkept }: Ended) => {
    keptTakes(job.id).then(
      (all) => {
        all
          .filter((kept) => kept.id === takeId)
          .forEach((kept) => {
            bringIn(kept, unkept);
          });
      },
      () => {
        setTrouble("The recording could not be read back from this device.");
      },
    );
  };
  const { live, start, stop } = useLive(job.id, recorded);
  // Takes of which something is safe on the server: once nothing of one is pending any more, it is forgotten here.
  const sentTakes = useRef(new Set<number>());
  useEffect(() => {
    for (const takeId of sentTakes.current) {
      if (pending.some((p) => p.takeId === takeId)) continue;
      sentTakes.current.delete(takeId);
      void forgetTake(takeId).finally(() => {
        setChanges((n) => n + 1);
      });
    }
  }, [pending]);
  const sent = (entry: Pending) => {
    if (entry.takeId !== undefined) sentTakes.current.add(entry.takeId);
    remove(entry.key);
  };
  const { add, keeping, unkept } = useBringIn(job, sent);
  const mayLose = keeping.size > 0 || pending.some((p) => p.isUnkept);
  useEffect(() => {
    if (!mayLose) return;
    const ask = (event: BeforeUnloadEvent) => {
      event.preventDefault();
    };
    window.addEventListener("beforeunload", ask);
    return () => {
      window.removeEventListener("beforeunload", ask);
    };
  }, [mayLose]);
  const leaveOut = (entry: Pending) => {
    if (entry.takeId !== undefined) sentTakes.current.delete(entry.takeId);
    setPending((old) =>
      old.filter((p) => p.key !== entry.key && (entry.takeId === undefined || p.takeId !== entry.takeId)),
    );
    setChanges((n) => n + 1);
  };
  return (
    <div className="flex flex-col gap-4">
      {pending.length > 0 ? (
        <ul className="flex flex-col gap-3">
          {pending.map((entry) => (
            <PendingRow
              key={entry.key}
              entry={entry}
              catalogue={catalogue}
              isOnly={pending.length === 1}
              isBeingKept={keeping.has(entry.key)}
              isRefused={unkept.has(entry.key)}
              onChange={(next) => {
                setPending((old) => changed(old, next));
              }}
              onSend={() => void add(entry)}
              onGone={() => {
                leaveOut(entry);
              }}
            />
          ))}
        </ul>
      ) : null}
      {pending.length > 1 ? (
        <div>
          <Button
            weight="strong"
            onClick={() => {
              for (const entry of pending) void add(entry);
            }}
          >
            Add {pending.length === 2 ? "both" : `all ${String(pending.length)}`} and analyse
          </Button>
        </div>
      ) : null}
      <WaitingFiles job={job} />
      <div className={live.status === "idle" ? "grid items-center gap-x-8 gap-y-4 lg:grid-cols-2" : "grid gap-4"}>
        <LivePanel first={job.recordings.length === 0 && pending.length === 0} live={live} start={start} stop={stop} />
        <div
          onDragOver={(event) => {
            event.preventDefault();
            setOver(true);
          }}
          onDragLeave={() => {
            setOver(false);
          }}
          onDrop={(event) => {
            event.preventDefault();
            setOver(false);
            take(event.dataTransfer.files);
          }}
          className={`flex flex-wrap items-center gap-4 border-2 border-dashed p-4 ${over ? "border-persimmon bg-porcelain" : "border-ink-soft"}`}
        >
          <input
            ref={input}
            type="file"
            multiple
            accept=".wav,.flac,.csv,.txt,.zip,audio/*,text/csv,application/zip"
            className="sr-only"
            aria-label="Recordings to add"
            tabIndex={-1}
            onChange={(event) => {
              take(event.target.files);
              event.target.value = "";
            }}
          />
          <Button onClick={() => input.current?.click()}>Choose recordings</Button>
          <p className="min-w-48 flex-1 text-ink-soft">
            or drop them here: sound as WAV or FLAC, a sensor log as CSV or zip, motor current as CSV. Best from rest to
            rest, drum empty, motor off at full speed for the coast-down.
          </p>
        </div>
      </div>
      {trouble ? (
        <Trouble title={trouble} safe="It is still kept there." next="Reload the page and try again." />
      ) : null}
      {live.status === "recording" ? null : (
        <KeptTakes jobId={job.id} without={pending.flatMap((p) => p.takeId ?? [])} changes={changes} onTake={bringIn} />
      )}
    </div>
  );
}
