import { useEffect, useState } from "react";

import type { Job } from "../api/client";
import { useOutbox, useWaiting } from "../device/device";
import { type Body, entryOf } from "../device/entries";
import { uuid7 } from "../device/ids";
import { photosOf } from "../lib/photos-of";

type Role = NonNullable<Body<"photo">["role"]>;

/** From the server, or from this device as long as it waits there. */
export function Photo({ jobId, photo, words }: { jobId: string; photo: string; words: string }) {
  const { files } = useWaiting();
  const waiting = files.find((file) => file.id === photo)?.content;
  const [url, setUrl] = useState<string | null>(null);
  useEffect(() => {
    if (!waiting) return undefined;
    const made = URL.createObjectURL(waiting);
    setUrl(made);
    return () => {
      URL.revokeObjectURL(made);
      setUrl(null);
    };
  }, [waiting]);
  return (
    <figure>
      <img
        src={url ?? `/api/jobs/${jobId}/photos/${photo}`}
        alt={`Photo, ${words}`}
        className="max-h-64 w-full border-2 border-line object-contain"
      />
      <figcaption className="text-sm">{words}</figcaption>
    </figure>
  );
}

/** A photo taken and kept on this device at once; `onTaken` learns its id. */
export function TakePhoto({
  job,
  about,
  role,
  words,
  onTaken,
}: {
  job: Job;
  about: string;
  role: Role;
  words: string;
  onTaken?: (photo: string) => void;
}) {
  const outbox = useOutbox();
  const [trouble, setTrouble] = useState(false);
  const { files } = useWaiting();
  const taken = photosOf(job, files, about).filter((p) => p.role === role).length;
  const keep = async (file: File) => {
    const id = uuid7();
    try {
      await outbox.keepFile({
        id,
        jobId: job.id,
        what: "photos",
        name: file.name,
        content: file,
        entry: entryOf("photo", { photo: id, about, role }),
      });
      setTrouble(false);
      onTaken?.(id);
    } catch {
      setTrouble(true);
    }
  };
  return (
    <div>
      <label className="inline-flex min-h-12 cursor-pointer items-center gap-3 border-2 border-ink bg-porcelain px-5 font-bold focus-within:outline-3">
        {taken > 0 ? `Photo taken: ${String(taken)}. Another` : words}
        <input
          type="file"
          accept="image/*"
          capture="environment"
          className="sr-only"
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) void keep(file);
            event.target.value = "";
          }}
        />
      </label>
      {trouble ? <p role="alert">This device has no room for the photo: make room and take it again.</p> : null}
    </div>
  );
}
