import { useEffect, useRef, useState } from "react";

import type { Catalogue, Job } from "../../../api/client";
import { megabytes, words } from "../../../lib/format";
import { saveAsFile } from "../../../lib/save-file";
import { Button } from "../../../ui/button";
import { ChoiceField, TextField } from "../../../ui/field";
import { Trouble } from "../../../ui/trouble";
import { forgetTake, type KeptContent, type KeptTake, keptTakes } from "../live/keep";
import { filesOf, isNothing, KeptTakes } from "../live/kept-takes";
import { LivePanel } from "../live/live-panel";
import type { Ended } from "../live/session";
import { useLive } from "../live/use-live";
import { changed, freeRun, isLaidSomewhere, type Pending, pendingOf } from "./pending";
import { useBringIn } from "./use-bring-in";
import { WaitingFiles } from "./waiting-files";

const KINDS = [
  { value: "audio", label: "sound (WAV, FLAC)" },
  { value: "acceleration", label: "acceleration (CSV)" },
  { value: "tacho", label: "tacho pulses (CSV)" },
  { value: "current", label: "current (CSV)" },
];
/** What can hurt somebody while it is being recorded. */
const CAUTIONS: readonly { kind?: string; test?: string; says: string }[] = [
  {
    kind: "current",
    says: "A clamp goes around a live lead: for qualified people only. Covers as the service sheet allows, interlocks as they are.",
  },
  {
    test: "hum",
    says: "A motor that hums and stands heats up within seconds. Switch it off as soon as it is recorded, and unplug before you look.",
  },
];
const options = (codes: readonly string[]) => codes.map((code) => ({ value: code, label: words(code) }));

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

function PendingRow({
  entry,
  catalogue,
  isOnly,
  isBeingKept,
  isRefused,
  onChange,
  onSend,
  onGone,
}: {
  entry: Pending;
  catalogue: Catalogue;
  isOnly: boolean;
  isBeingKept: boolean;
  isRefused: boolean;
  onChange: (entry: Pending) => void;
  onSend: () => void;
  onGone: () => void;
}) {
  const set = (change: Partial<Pending>) => {
    onChange({ ...entry, ...change });
  };
  return (
    <li className="sheet p-4">
      <p className="font-bold">
        {entry.file.name}{" "}
        <span className="font-mono text-sm font-normal text-ink-soft">{megabytes(entry.file.size)}</span>
      </p>
      <div className="grid gap-3 py-3 sm:grid-cols-2 lg:grid-cols-4">
        {entry.takeId === undefined ? (
          <ChoiceField
            label="What it is"
            options={KINDS}
            value={entry.kind}
            onChange={(kind) => {
              set({ kind });
            }}
          />
        ) : null}
        <ChoiceField
          label="Test"
          options={options(catalogue.tests)}
          value={entry.test}
          onChange={(test) => {
            set({ test });
          }}
        />
        {isLaidSomewhere(entry.kind) ? (
          <ChoiceField
            label="Where the phone was"
            options={options(catalogue.positions)}
            value={entry.position}
            onChange={(position) => {
              set({ position });
            }}
          />
        ) : null}
        <ChoiceField
          label="In the drum"
          empty="not known"
          options={options(catalogue.loads)}
          value={entry.load}
          onChange={(load) => {
            set({ load });
          }}
        />
      </div>
      {CAUTIONS.filter((c) => c.kind === entry.kind || c.test === entry.test).map((c) => (
        <p key={c.says} className="sheet hazard mb-3 py-3 pr-4">
          <strong>Caution.</strong> {c.says}
        </p>
      ))}
      <details>
        <summary className="min-h-12 cursor-pointer py-3 underline underline-offset-4">Run and clock</summary>
        <div className="grid gap-3 pb-3 sm:grid-cols-3">
          <TextField
            label="Run"
            hint="Recordings of one run were made at the same time."
            value={entry.run}
            onChange={(run) => {
              set({ run });
            }}
          />
          <TextField
            label="Starts at, s"
            hint="On the run’s common clock."
            inputMode="decimal"
            value={entry.startS}
            onChange={(startS) => {
              set({ startS });
            }}
          />
          <TextField
            label="Motor off at, s"
            hint="If you noted it."
            inputMode="decimal"
            value={entry.powerCutS}
            onChange={(powerCutS) => {
              set({ powerCutS });
            }}
          />
        </div>
      </details>
      {entry.isUnkept ? (
        <p role="alert" className="sheet hazard mb-3 py-3 pr-4">
          <strong>This device had no room for the end of it.</strong> Add it, or save it as a file, before you leave
          this page.
        </p>
      ) : null}
      {isRefused ? (
        <Trouble
          title="This device has no room to keep it."
          safe="The file itself is unchanged."
          next="Make room on the device, then add it again."
        />
      ) : null}
      <div className="flex flex-wrap items-center gap-3">
        <Button weight={isOnly ? "strong" : "plain"} disabled={isBeingKept} onClick={onSend}>
          Add and analyse
        </Button>
        {entry.isUnkept ? (
          <Button
            onClick={() => {
              saveAsFile(entry.file);
            }}
          >
            Save as a file
          </Button>
        ) : null}
        <Button weight="quiet" onClick={onGone}>
          Leave it out
        </Button>
      </div>
    </li>
  );
}
