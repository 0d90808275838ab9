import { useState } from "react";
import type { Job, PlannedStep } from "../../api/client";
import { useWaiting } from "../../device/device";
import { type AnyEntry, entryOf } from "../../device/entries";
import { MachineDrawing } from "../../marks/drawings/machine-drawing";
import { Button } from "../../ui/button";
import { photosOf } from "../../lib/photos-of";
import { Photo, TakePhoto } from "../photos";
import { ACTS, type Placed, stateOf, tallyOf } from "./strip-state";
import { Aid } from "./aid";
import { TighteningClock, Tray } from "./tray";
import { Ladder } from "./ladder";
import { Looks } from "./looks";
import { Wait } from "./step-wait";

/** One step on one screen: where, what, what hurts, what is counted, and one big "done". */
export function StepView({
  job,
  layout,
  placed,
  gate,
  onWrite,
}: {
  job: Job;
  layout: string;
  placed: Placed;
  gate: string;
  onWrite: (entries: readonly AnyEntry[]) => void;
}) {
  const { planned, way } = placed;
  const state = stateOf(job, placed);
  const [acknowledged, setAcknowledged] = useState(false);
  const say = (said: "done" | "skipped" | "stuck", rung?: number) => {
    if (planned.step === null) onWrite([entryOf("note", { text: planned.name, about: ACTS })]);
    else onWrite([entryOf("step", { step: planned.step, way, state: said, ...(rung === undefined ? {} : { rung }) })]);
  };
  const held = way === "off" && gate !== "" && !acknowledged && state === "open";
  return (
    <article aria-label={planned.name} className="flex flex-col gap-4">
      <header>
        <p className="text-sm text-ink-soft">
          {placed.part === "off" ? "coming off" : placed.part === "fit" ? "fitting" : "going back"}
          {planned.minutes > 0 ? `, ${planned.minutes.toFixed(planned.minutes < 2 ? 1 : 0)} min` : ""}
          {planned.times > 1 ? `, at ${String(planned.times)} places` : ""}
          {planned.optional ? ", if wanted" : ""}
        </p>
        <h2 className="text-2xl sm:text-3xl">{planned.name}</h2>
      </header>
      <Hazards planned={planned} />
      <div className="flex flex-col gap-4 sm:flex-row">
        <div className="mx-auto w-56 shrink-0 sm:mx-0">
          <MachineDrawing layout={layout} place={planned.place} />
        </div>
        <div className="flex flex-col gap-2 text-lg">
          {way === "off" || placed.part === "fit" ? <p>{planned.do}</p> : null}
          {way === "off" && planned.note_first ? (
            <p>
              <strong>Note first.</strong> {planned.note_first}
            </p>
          ) : null}
          {way === "on" && planned.back ? (
            <p>
              <strong>Check.</strong> {planned.back}
            </p>
          ) : null}
          {planned.gap_expected && way === "on" ? (
            <p>
              {planned.gap_expected === "never"
                ? "No gap may stay here."
                : "A gap is right here until the screws draw it."}
            </p>
          ) : null}
          {planned.people > 1 ? <p className="font-bold">Two people, or the masses off first.</p> : null}
          <Wait job={job} planned={planned} onWrite={onWrite} />
        </div>
      </div>
      <Aid job={job} planned={planned} way={way} onWrite={onWrite} />
      {planned.photo && way === "off" ? <PhotoAsked job={job} planned={planned} role="before" /> : null}
      {way === "on" ? <AsItWas job={job} planned={planned} /> : null}
      <Tray
        job={job}
        planned={planned}
        way={way}
        onCount={(entry) => {
          onWrite([entry]);
        }}
      />
      {way === "on" ? <Order job={job} planned={planned} /> : null}
      {way === "off" ? <Looks job={job} planned={planned} onWrite={onWrite} /> : null}
      {held ? (
        <div className="sheet hazard py-4 pr-4" role="alert">
          <p className="font-bold">No way back from here.</p>
          <p>
            {planned.no_way_back} Missing: {gate}.
          </p>
          <Button
            onClick={() => {
              setAcknowledged(true);
            }}
          >
            It is all at hand: go on
          </Button>
        </div>
      ) : (
        <div className="sticky bottom-(--undo-line) bg-enamel py-3">
          <Button
            weight="strong"
            data-knock
            className="min-h-16 w-full text-xl sm:w-auto sm:px-16"
            onClick={() => {
              say("done");
            }}
          >
            {state === "done" ? "Done. Say it again" : "Done"}
          </Button>
        </div>
      )}
      {planned.step !== null ? (
        <div className="flex flex-wrap gap-3">
          {way === "off" && planned.ladder && state !== "stuck" ? (
            <Button
              onClick={() => {
                say("stuck", 0);
              }}
            >
              It is stuck
            </Button>
          ) : null}
          <Button
            onClick={() => {
              say("skipped");
            }}
          >
            Not needed here
          </Button>
        </div>
      ) : null}
      {state === "stuck" && planned.ladder ? (
        <Ladder
          job={job}
          placed={placed}
          onNext={(rung) => {
            say("stuck", rung);
          }}
        />
      ) : null}
    </article>
  );
}

function Hazards({ planned }: { planned: PlannedStep }) {
  if (planned.hazards.length === 0) return null;
  return (
    <ul aria-label="What hurts" className="sheet hazard flex flex-col gap-1 py-3 pr-3">
      {planned.hazards.map((h) => (
        <li key={h.code}>
          <strong>{h.name}.</strong> {h.says}
        </li>
      ))}
    </ul>
  );
}

/** How it looked before it was touched, beside how it looks now; only where somebody took a photo then. */
function AsItWas({ job, planned }: { job: Job; planned: PlannedStep }) {
  const { files } = useWaiting();
  const photos = planned.step === null ? [] : photosOf(job, files, planned.step);
  if (photos.length === 0) return null;
  return (
    <section aria-label="As it was" className="flex flex-col gap-2">
      <p className="font-bold">
        As it was, {photos.some((p) => p.role === "after") ? "and as it is" : "before it came off"}
      </p>
      <ul className="grid grid-cols-2 gap-3">
        {photos.map((photo) => (
          <li key={photo.photo}>
            <Photo jobId={job.id} photo={photo.photo} words={photo.role === "after" ? "now" : "before"} />
          </li>
        ))}
      </ul>
      <PhotoAsked job={job} planned={planned} role="after" />
    </section>
  );
}

function PhotoAsked({ job, planned, role }: { job: Job; planned: PlannedStep; role: "before" | "after" }) {
  const words = role === "before" ? "Photo before touching" : "Photo of it now";
  return <TakePhoto job={job} about={planned.step ?? "strip"} role={role} words={words} />;
}

/** The order in which screws on a circle are drawn, once it is known how many there are. */
function Order({ job, planned }: { job: Job; planned: PlannedStep }) {
  if (planned.step === null) return null;
  const group = planned.fasteners.find((f) => f.most >= 4 && f.kind === "screw");
  if (!group) return null;
  const { out, into } = tallyOf(job, planned.step, group.group);
  const order = out === null ? undefined : group.orders[String(out)];
  if (!order) return null;
  return (
    <figure>
      <TighteningClock order={order} done={into ?? 0} />
      <figcaption className="text-sm">
        All started by the fingers first, then drawn in this order to touch, then in this order to final.
      </figcaption>
    </figure>
  );
}
