import { useEffect, useState } from "react";

// So long after the last letter it is looked for.
const SETTLE_MS = 250;

/** What was asked for last, once nothing was typed for a moment. */
export function useSettled<T>(value: T): T {
  const [settled, setSettled] = useState(value);
  const key = JSON.stringify(value);
  useEffect(() => {
    const timer = setTimeout(() => {
      setSettled(JSON.parse(key) as T);
    }, SETTLE_MS);
    return () => {
      clearTimeout(timer);
    };
  }, [key]);
  return settled;
}

/** Whether what is known of something holds every word that is looked for, or its beginning. */
export function holdsAll(known: string, words: string): boolean {
  const text = known.toLowerCase();
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
}
