import type { Job } from "../api/client";
import { type Body, entryOf } from "../device/entries";
import { useWrite } from "../device/use-write";
import { leftOf, useNow } from "../lib/now";
import { Button } from "../ui/button";

/** Something that takes its time: begun with a tap, counted down from the diary, ended with a tap. */
export function Timed({
  job,
  what,
  about,
  minutes,
  begin,
  over,
  end,
}: {
  job: Job;
  what: Body<"timer">["for"];
  about: string;
  minutes: number;
  begin: string;
  over: string;
  end: string;
}) {
  const { write } = useWrite(job.id);
  const timer = job.any_time.timers.find((t) => t.about === about);
  const now = useNow(timer !== undefined);
  if (!timer) {
    return (
      <Button
        className="self-start"
        onClick={() => {
          void write([entryOf("timer", { for: what, minutes, about })]);
        }}
      >
        {begin}
      </Button>
    );
  }
  const left = leftOf(timer.rings_at, now);
  return (
    <div className="flex flex-wrap items-center gap-4">
      <p role="timer" className="font-mono text-3xl font-bold">
        {left.over ? over : left.text}
      </p>
      <Button
        onClick={() => {
          void write([entryOf("timer_end", { timer: timer.entry, how: left.over ? "rang" : "cut_short" })]);
        }}
      >
        {end}
      </Button>
    </div>
  );
}
