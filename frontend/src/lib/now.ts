import { useEffect, useState } from "react";

/** The present moment, looked at every second while it matters. */
export function useNow(matters: boolean): number {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    if (!matters) return;
    const look = () => {
      setNow(Date.now());
    };
    look();
    const timer = setInterval(look, 1000);
    return () => {
      clearInterval(timer);
    };
  }, [matters]);
  return now;
}

/** What is left until a moment, as minutes and seconds; `over` once it has come. */
export function leftOf(iso: string, now: number): { over: boolean; seconds: number; text: string } {
  const seconds = Math.round((new Date(iso).getTime() - now) / 1000);
  const left = Math.max(0, seconds);
  return {
    over: seconds <= 0,
    seconds,
    text: `${String(Math.floor(left / 60))}:${String(left % 60).padStart(2, "0")}`,
  };
}
