import { useState } from "react";

import type { Job, ProofData } from "../../../api/client";
import { type AnyEntry, entryOf } from "../../../device/entries";
import { useDraft } from "../../../lib/draft";
import { numberOf, when } from "../../../lib/format";
import { Button } from "../../../ui/button";
import { TextField } from "../../../ui/field";
import { Photo, TakePhoto } from "../../photos";

const ABOUT = "proof:p_witness";

/** Painted marks, looked at again after so many heavy loads: each look with its photo, its loads, and whether it held. */
export function Marks({
  job,
  marks,
  onWrite,
}: {
  job: Job;
  marks: ProofData["marks"];
  onWrite: (entries: readonly AnyEntry[]) => void;
}) {
  const looks = job.proof.marks;
  const first = looks.length === 0;
  const [photo, setPhoto] = useDraft<string | null>(`marks-photo-${job.id}`, null);
  const [loads, setLoads] = useState(0);
  const [play, setPlay] = useState("");
  const say = (moved: boolean) => {
    const values = { loads, moved, play_mm: numberOf(play), photo };
    const told = Object.fromEntries(Object.entries(values).filter(([, value]) => value !== null));
    onWrite([entryOf("proved", { test: "p_witness", passed: !moved, values: told })]);
    setPhoto(null);
    setLoads(0);
    setPlay("");
  };
  return (
    <section aria-label="Marks" className="flex flex-col gap-3">
      {looks.length > marks.looks.length ? (
        <p role="status">Waits here: what it means follows once there is a signal.</p>
      ) : (
        <p className={marks.stop ? "hazard sheet py-3 pr-3 font-bold" : "text-lg"}>{marks.says}</p>
      )}
      {first ? null : (
        <ol aria-label="Looks" className="grid gap-3 sm:grid-cols-3">
          {looks.map((look, k) => (
            <li key={look.entry}>
              <p>
                <strong>{k === 0 ? "Painted" : look.passed ? "Line unbroken" : "Moved"}</strong>{" "}
                {when(look.at, new Date())}
                {k > 0 ? `, ${String(look.values["loads"] ?? 0)} more loads` : ""}
                {typeof look.values["play_mm"] === "number" ? `, play ${look.values["play_mm"].toFixed(1)} mm` : ""}
              </p>
              {typeof look.values["photo"] === "string" ? (
                <Photo jobId={job.id} photo={look.values["photo"]} words={k === 0 ? "as painted" : "then"} />
              ) : null}
            </li>
          ))}
        </ol>
      )}
      {marks.stop ? null : (
        <>
          {first ? null : (
            <div className="flex flex-wrap items-center gap-3">
              <span className="font-bold">Heavy loads since the last look</span>
              <Button
                aria-label="One load fewer"
                onClick={() => {
                  setLoads(Math.max(0, loads - 1));
                }}
              >
                −
              </Button>
              <output aria-label="Heavy loads" className="min-w-10 text-center font-mono text-2xl">
                {loads}
              </output>
              <Button
                aria-label="One load more"
                onClick={() => {
                  setLoads(loads + 1);
                }}
              >
                +
              </Button>
            </div>
          )}
          <TextField label="Side play, if measured, mm" inputMode="decimal" value={play} onChange={setPlay} />
          <TakePhoto
            job={job}
            about={ABOUT}
            role={first ? "before" : "after"}
            words={first ? "Photo of the painted line" : "Photo of the line now"}
            onTaken={setPhoto}
          />
          {photo === null ? <p className="text-sm">A look without a photo cannot be compared later.</p> : null}
          <div className="flex flex-wrap gap-3">
            <Button
              weight="strong"
              disabled={photo === null || (!first && loads === 0)}
              onClick={() => {
                say(false);
              }}
            >
              {first ? "Painted" : "Line unbroken"}
            </Button>
            {first ? null : (
              <Button
                onClick={() => {
                  say(true);
                }}
              >
                It has moved
              </Button>
            )}
          </div>
        </>
      )}
    </section>
  );
}
