import { useCallback, useEffect, useRef, useState } from "react";

import { ServerSaid, toServerSaid } from "../../../api/client";

/** What is being heard: nothing, something on its way, a sound with how far it was raised, or why there is none. */
export type Hearing =
  | { status: "silent" }
  | { status: "fetching"; key: string }
  | { status: "heard"; key: string; url: string; raised_db: number; speed_rpm: number | null }
  | { status: "failed"; key: string; message: string };

/** Fetches sounds one at a time; a later wish replaces an earlier one. */
export function useEar(): { hearing: Hearing; hear: (key: string, url: string) => void } {
  const [hearing, setHearing] = useState<Hearing>({ status: "silent" });
  const running = useRef<AbortController | null>(null);
  const held = useRef<string | null>(null);
  useEffect(
    () => () => {
      running.current?.abort();
      if (held.current) URL.revokeObjectURL(held.current);
    },
    [],
  );
  const hear = useCallback((key: string, url: string) => {
    running.current?.abort();
    const own = new AbortController();
    running.current = own;
    setHearing({ status: "fetching", key });
    fetchSound(url, own.signal)
      .then((sound) => {
        if (own.signal.aborted) return;
        if (held.current) URL.revokeObjectURL(held.current);
        held.current = URL.createObjectURL(sound.blob);
        setHearing({ status: "heard", key, url: held.current, raised_db: sound.raised_db, speed_rpm: sound.speed_rpm });
      })
      .catch((reason: unknown) => {
        if (own.signal.aborted) return;
        const message =
          reason instanceof ServerSaid ? reason.message : "The sound could not be fetched. The recording is kept.";
        setHearing({ status: "failed", key, message });
      });
  }, []);
  return { hearing, hear };
}

async function fetchSound(
  url: string,
  signal: AbortSignal,
): Promise<{ blob: Blob; raised_db: number; speed_rpm: number | null }> {
  const answer = await fetch(url, { signal });
  if (!answer.ok) {
    const body: unknown = await answer.json().catch(() => null);
    throw toServerSaid(body, answer.status);
  }
  const speed = answer.headers.get("X-Speed-rpm");
  return {
    blob: await answer.blob(),
    raised_db: Number(answer.headers.get("X-Raised-dB") ?? 0),
    speed_rpm: speed === null ? null : Number(speed),
  };
}
