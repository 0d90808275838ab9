import { useRef, useState } from "react";

import type { Curves, Job, Recording, Result, Schemas } from "../../api/client";
import { useBeside, useCall } from "../../api/calls";
import { useCatalogue } from "../../api/knowledge";
import { entryOf } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { megabytes, seconds, unbroken, words } from "../../lib/format";
import { Keepable } from "../../marks/graphs/keepable";
import { KeptDrumClock, KeptOrderCarpet, KeptRaceComb } from "../../marks/graphs/kept";
import type { Thread } from "../../marks/graphs/order-carpet";
import { SpeedRibbon } from "../../marks/graphs/speed-ribbon";
import { speedTable } from "../../marks/graphs/tables";
import { Button } from "../../ui/button";
import { FetchingLists } from "../../ui/fetching";
import { useFramedJob } from "../job-frame";
import { AddRecordings } from "./files/add-recordings";
import { Beside } from "./beside";
import { beatWay, type EarWay, earWays, listenUrl, stretchAt } from "./ear/ear-ways";
import { Figures } from "./figures-list";
import { ForTheEar } from "./ear/for-the-ear";
import { useEar } from "./ear/use-ear";

const TESTS: Record<string, string> = {
  ambient: "The room",
  bounce: "A push",
  hum: "Switched on",
  agitate: "The wash",
  hand_turn: "Turned by hand",
};

/** The spin test: recordings in, speed ribbon and order carpet out, all on one cursor that can be heard. */
export function Spin() {
  const job = useFramedJob();
  const catalogue = useCatalogue();
  const call = useCall(job.id, job.call?.weighed);
  if (!catalogue.data) return <FetchingLists failed={catalogue.isError} />;
  const curves = call.data?.curves;
  const hasTrack = (curves?.t_s?.length ?? 0) > 0;
  return (
    <div className="flex flex-col gap-6">
      <h1 className="text-3xl">{spinTitle(job, hasTrack)}</h1>
      {job.recordings.length === 0 ? <SpinCaution /> : null}
      {curves && hasTrack ? <Heard job={job} curves={curves} corners={call.data?.result.corners} /> : null}
      <div className="grid gap-x-8 gap-y-6 lg:auto-cols-fr lg:grid-flow-col">
        {call.data ? (
          <Figures result={call.data.result} job={job} words={catalogue.data.figures} isNarrow={hasTrack} />
        ) : null}
        {hasTrack ? <Beside job={job} /> : null}
      </div>
      {call.data ? <OtherTests result={call.data.result} /> : null}
      <section aria-label="Recordings" className="flex flex-col gap-3">
        <h2 className="text-xl">Recordings</h2>
        <RecordingList job={job} />
        <AddRecordings job={job} catalogue={catalogue.data} />
      </section>
    </div>
  );
}

function spinTitle(job: Job, hasTrack: boolean): string {
  if (job.recordings.length === 0) return "Let it spin, and listen";
  if (hasTrack) return "What the spin test shows";
  return job.recordings.some((r) => r.test === "spin") ? "No turning drum was found yet" : "No spin was recorded yet";
}

/** Pushes, the room, a machine that was to move: what each shows. */
function OtherTests({ result }: { result: Result }) {
  if (result.others.length === 0) return null;
  return (
    <section aria-label="Besides the spin">
      <h2 className="pb-2 text-xl">Besides the spin</h2>
      <ul>
        {result.others.map((other) => (
          <li key={`${other.run} ${other.says}`} className="flex flex-wrap gap-x-4 border-b border-line py-2">
            <span className="min-w-32 font-bold">{TESTS[other.test] ?? words(other.test)}</span>
            <span className="min-w-0 flex-1 basis-64">{unbroken(other.says)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function SpinCaution() {
  return (
    <div className="hazard sheet py-3 pr-3">
      <p>
        <strong>Caution.</strong> Drum empty, lid or door shut, interlocks as they are. Stop a spin that walks or bangs
        the cabinet: a walking machine can pull its drain hose off and flood the room.
      </p>
    </div>
  );
}

function Heard({ job, curves, corners }: { job: Job; curves: Curves; corners: Result["corners"] | undefined }) {
  const [cursor, setCursor] = useState<number | null>(null);
  const [chosen, setChosen] = useState<EarWay | null>(null);
  const player = useRef<HTMLAudioElement>(null);
  const { hearing, hear } = useEar();
  const beside = useBeside(job.id, job.call?.weighed, undefined);
  const heard = curves.sound;
  // Analyses made before the sound's own clock was kept know only what was noted of it.
  const sound = job.recordings.find((r) => (heard ? r.name === heard.name : r.kind === "audio" && r.test === "spin"));
  const start_s = heard?.start_s ?? sound?.start_s ?? 0;
  const choose = (t_s: number) => {
    setCursor(t_s);
    if (player.current) player.current.currentTime = Math.max(0, t_s - start_s);
  };
  const stretch = stretchAt(curves, cursor);
  const other = beside.data?.choices.find((c) => c.same_machine) ?? beside.data?.choices.find((c) => c.is_sound);
  const ways = earWays(curves, other ? visitBeside(other) : null);
  const listen = (way: EarWay) => {
    player.current?.pause();
    setChosen(way);
    hear(way.key, listenUrl(job.id, way, stretch));
  };
  const line = curves.envelope?.lines.find((l) => l.false_alarm < 0.05 && l.order < 5);
  const threads: Thread[] = [1, 2, 3].map((order) => ({ order, name: `${String(order)}x` }));
  if (line) threads.push({ order: line.order, name: `${line.race} race` });
  const hearThread = (thread: Thread) => {
    const rumble = ways.find((way) => way.key === "envelope");
    const whole = Number.isInteger(thread.order);
    if (whole) listen(beatWay(thread.order, thread.name, stretch.rpm));
    else if (rumble) listen(rumble);
  };
  return (
    <>
      <section aria-label="Speed" className="sheet p-4">
        <Keepable name="Speed" table={() => speedTable(curves)}>
          <SpeedRibbon curves={curves} cursor_s={cursor} onCursor={choose} />
        </Keepable>
        {sound ? (
          <audio
            ref={player}
            controls
            preload="metadata"
            className="mt-2 w-full"
            src={`/api/jobs/${job.id}/recordings/${sound.id}`}
            aria-label={`Listen to ${sound.name}`}
            onTimeUpdate={(event) => {
              if (!event.currentTarget.paused) setCursor(event.currentTarget.currentTime + start_s);
            }}
          />
        ) : null}
        {heard && sound ? (
          <ForTheEar ways={ways} stretch={stretch} hearing={hearing} chosen={chosen} onHear={listen} />
        ) : null}
      </section>
      <div className="grid gap-6 lg:grid-flow-col lg:auto-cols-fr">
        {curves.order_map ? (
          <section aria-label="Orders" className="sheet p-4">
            <KeptOrderCarpet
              map={curves.order_map}
              threads={threads}
              onHear={heard && sound ? hearThread : undefined}
            />
          </section>
        ) : null}
        {curves.envelope ? (
          <section aria-label="Bearing lines" className="sheet p-4">
            <KeptRaceComb envelope={curves.envelope} />
          </section>
        ) : null}
        {curves.turn_profile || curves.turn_motion || corners ? (
          <section aria-label="One turn" className="sheet p-4">
            <KeptDrumClock curves={curves} corners={corners} />
          </section>
        ) : null}
      </div>
    </>
  );
}

function visitBeside(other: Schemas["OtherSpinOut"]): { job_id: string; title: string; words: string } {
  return other.same_machine
    ? { job_id: other.job_id, title: "Beside the earlier spin", words: "the one recorded here before" }
    : { job_id: other.job_id, title: "Beside a sound machine", words: `the one at ${other.place}, called sound,` };
}

function RecordingList({ job }: { job: Job }) {
  return (
    <ul className="grid gap-2 lg:grid-cols-2">
      {job.recordings.map((recording) => (
        <RecordingRow key={recording.id} jobId={job.id} recording={recording} />
      ))}
      {job.recordings.length > 0 ? (
        <li>
          <a
            className="inline-flex min-h-12 items-center underline underline-offset-4"
            href={`/api/jobs/${job.id}/case.zip`}
          >
            Export the whole case as zip
          </a>
        </li>
      ) : null}
    </ul>
  );
}

function RecordingRow({ jobId, recording }: { jobId: string; recording: Recording }) {
  const { write, writing } = useWrite(jobId);
  const [asking, setAsking] = useState(false);
  const facts = [
    recording.test === "spin" ? null : words(recording.test),
    recording.kind,
    seconds(recording.duration_s),
    recording.rate_hz != null
      ? `${recording.rate_hz >= 1000 ? `${(recording.rate_hz / 1000).toFixed(1)} kHz` : `${recording.rate_hz.toFixed(0)} Hz`}`
      : null,
    recording.position ? words(recording.position) : null,
    recording.load ? `drum ${words(recording.load)}` : null,
    recording.run != null ? `run ${recording.run}` : null,
    megabytes(recording.size_bytes),
  ].filter((fact) => fact !== null);
  return (
    <li className="sheet flex flex-wrap items-center gap-x-4 px-4 py-1">
      <a
        href={`/api/jobs/${jobId}/recordings/${recording.id}`}
        download={recording.name}
        className="flex min-h-12 items-center font-bold underline underline-offset-4"
      >
        {recording.name}
      </a>
      <span className="mr-auto text-sm text-ink-soft">{facts.join(", ")}</span>
      {recording.warnings.map((warning) => (
        <span key={warning} className="w-full pb-2 text-sm">
          {warning}
        </span>
      ))}
      {asking ? (
        <>
          <Button
            disabled={writing.status === "keeping"}
            onClick={() => {
              void write([entryOf("recording_removed", { recording: recording.id })]);
            }}
          >
            Remove it
          </Button>
          <Button
            weight="quiet"
            onClick={() => {
              setAsking(false);
            }}
          >
            Keep it
          </Button>
        </>
      ) : (
        <Button
          weight="quiet"
          className="-mx-5.5"
          onClick={() => {
            setAsking(true);
          }}
        >
          Remove
        </Button>
      )}
    </li>
  );
}
