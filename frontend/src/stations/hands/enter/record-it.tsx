import { useEffect, useState } from "react";

import { useOutbox } from "../../../device/device";
import { type Body, entryOf } from "../../../device/entries";
import { uuid7 } from "../../../device/ids";
import { Button } from "../../../ui/button";
import { useFramedJob } from "../../job-frame";
import { wavOf } from "../../spin/live/take";
import { type Taken, useTakeSeconds } from "./take-seconds";

/** Some seconds of sound: heard again at once, and kept with the job where somebody wants that. */
export function RecordIt({
  seconds,
  test,
  name,
  ask,
  hint,
  onTaken,
  children,
}: {
  seconds: number;
  test: NonNullable<Body<"recording">["test"]>;
  name: string;
  ask: string;
  hint: string;
  onTaken?: (taken: Taken) => void;
  /** What was read off it. */
  children?: React.ReactNode;
}) {
  const job = useFramedJob();
  const outbox = useOutbox();
  const [wav, setWav] = useState<Blob | null>(null);
  const [kept, setKept] = useState<"not_yet" | "kept" | "no_room">("not_yet");
  const url = useUrlOf(wav);
  const { state, take } = useTakeSeconds(seconds, (taken) => {
    setWav(wavOf([taken.samples], taken.rate_hz));
    setKept("not_yet");
    onTaken?.(taken);
  });
  const keep = async (content: Blob) => {
    const id = uuid7();
    const file = `${name}-${id.slice(0, 8)}.wav`;
    const run = `${name}-${id}`.slice(0, 40);
    try {
      await outbox.keepFile({
        id,
        jobId: job.id,
        what: "recordings",
        name: file,
        content,
        entry: entryOf("recording", { recording: id, file, kind: "audio", test, run }),
      });
      setKept("kept");
    } catch {
      setKept("no_room");
    }
  };
  return (
    <section aria-label={ask} className="sheet flex flex-col gap-3 px-4 py-3">
      <Button
        className="min-h-16 max-w-sm text-lg"
        disabled={state.at === "taking"}
        onClick={() => {
          void take();
        }}
      >
        {state.at === "taking" ? `Listening: ${String(state.left_s)} s` : ask}
      </Button>
      {state.at === "refused" ? <p role="status">This page may not listen here.</p> : null}
      {wav === null ? <p className="max-w-prose text-ink-soft">{hint}</p> : null}
      {children}
      {wav && url ? (
        <div className="flex flex-wrap items-center gap-3">
          <audio controls src={url} aria-label="What was recorded" />
          {kept === "kept" ? (
            <p role="status">Kept with the recordings.</p>
          ) : (
            <Button
              onClick={() => {
                void keep(wav);
              }}
            >
              Keep the recording
            </Button>
          )}
          {kept === "no_room" ? (
            <p role="alert">This device has no room for it: make room, then keep it again.</p>
          ) : null}
        </div>
      ) : null}
    </section>
  );
}

function useUrlOf(content: Blob | null): string | null {
  const [url, setUrl] = useState<string | null>(null);
  useEffect(() => {
    if (!content) return undefined;
    const made = URL.createObjectURL(content);
    setUrl(made);
    return () => {
      URL.revokeObjectURL(made);
    };
  }, [content]);
  return url;
}
