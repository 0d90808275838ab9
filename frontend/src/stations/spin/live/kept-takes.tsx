import { useCallback, useEffect, useState } from "react";

import { Button } from "../../../ui/button";
import { Trouble } from "../../../ui/trouble";
import { contentOf, forgetTake, type KeptContent, type KeptTake, keptTakes } from "./keep";
import { motionCsv, wavOf } from "./take";

const SHORTEST_MOTION_ROWS = 50;

const NOTHING: KeptContent = { sound: [], motion: [] };

export function isNothing(content: KeptContent): boolean {
  return content.sound.length + content.motion.length === 0;
}

/** The files of a take, named after the moment when it began; `unkept` is its end where the device had no room for it. */
export async function filesOf(take: KeptTake, unkept = NOTHING): Promise<File[]> {
  const kept = await contentOf(take.id);
  const [sound, motion] = [
    [...kept.sound, ...unkept.sound],
    [...kept.motion, ...unkept.motion],
  ];
  const stem = `spin-${new Date(take.began).toISOString().slice(0, 19).replace(/[T:]/g, "-")}`;
  const files = [
    new File([wavOf(sound, take.rate_hz)], `${stem}.wav`, { type: "audio/wav", lastModified: take.began }),
  ];
  if (motion.length >= SHORTEST_MOTION_ROWS) {
    files.push(new File([motionCsv(motion)], `${stem}.csv`, { type: "text/csv", lastModified: take.began }));
  }
  return files;
}

/** Recordings that this device still keeps: after a crash, or when they were not added. */
export function KeptTakes({
  jobId,
  without,
  changes,
  onTake,
}: {
  jobId: string;
  /** Those that are being added just now. */
  without: readonly number[];
  /** Counts what may have changed the list. */
  changes: number;
  onTake: (take: KeptTake) => void;
}) {
  const [kept, setKept] = useState<KeptTake[]>([]);
  const [trouble, setTrouble] = useState<string | null>(null);
  const look = useCallback(() => {
    // A browser that keeps nothing has nothing to show.
    keptTakes(jobId).then(setKept, () => {
      setKept([]);
    });
  }, [jobId]);
  useEffect(look, [look, changes]);
  const forget = (take: KeptTake) => {
    forgetTake(take.id).then(look, () => {
      setTrouble("The recording could not be removed from this device.");
    });
  };
  const shown = kept.filter((take) => !without.includes(take.id));
  if (shown.length === 0) return null;
  return (
    <ul className="flex flex-col gap-2" aria-label="Kept on this device">
      {trouble ? (
        <li>
          <Trouble title={trouble} />
        </li>
      ) : null}
      {shown.map((take) => (
        <li key={take.id} className="sheet flex flex-wrap items-center gap-x-4 gap-y-2 px-4 py-2">
          <span className="mr-auto">
            A recording of {new Date(take.began).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" })}{" "}
            is kept on this device.
          </span>
          <Button
            onClick={() => {
              onTake(take);
            }}
          >
            Bring it in
          </Button>
          <Button
            weight="quiet"
            onClick={() => {
              forget(take);
            }}
          >
            Throw it away
          </Button>
        </li>
      ))}
    </ul>
  );
}
