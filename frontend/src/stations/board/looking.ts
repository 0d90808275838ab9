import { useEffect, useState } from "react";

import type { Wish } from "../../api/found";
import type { JobShort } from "../../api/client";
import { waitOf } from "./groups";

/** What was asked for last, once nothing was typed for a moment. */
export function useSettled<T>(value: T, after_ms: number): T {
  const [settled, setSettled] = useState(value);
  const key = JSON.stringify(value);
  useEffect(() => {
    const timer = setTimeout(() => {
      setSettled(JSON.parse(key) as T);
    }, after_ms);
    return () => {
      clearTimeout(timer);
    };
  }, [key, after_ms]);
  return settled;
}

/** Whether a job that this device knows is one of those: by its place and its call, which is all it knows of it. */
export function matches(job: JobShort, { q, waits_for, layout }: Wish): boolean {
  const known = `${job.place} ${job.call?.headline ?? ""}`.toLowerCase();
  return (
    (waits_for === null || waitOf(job) === waits_for) &&
    (layout === null || job.layout === layout) &&
    q
      .toLowerCase()
      .split(/\s+/)
      .every((word) => known.includes(word))
  );
}
