import type { Catalogue } from "../../api/client";
import { OneChip } from "../../ui/chips";
import { ChoiceField, TextField } from "../../ui/field";
import { Recognise } from "../story/recognise";
import { Told } from "../story/told";
import type { JobDraft } from "./draft";

const MAINS = [
  { value: "50", label: "50 Hz" },
  { value: "60", label: "60 Hz" },
];

/** Everything told and read off the plate; only the place is needed. */
export function JobForm({
  draft,
  catalogue,
  onChange,
  children,
}: {
  draft: JobDraft;
  catalogue: Catalogue;
  onChange: (draft: JobDraft) => void;
  /** Shown below the place. */
  children?: React.ReactNode;
}) {
  const set = (change: Partial<JobDraft>) => {
    onChange({ ...draft, ...change });
  };
  const layout = catalogue.layouts.find((l) => l.code === draft.layout);
  const bearings = catalogue.bearings.map((b) => ({ value: b, label: b }));
  return (
    <div className="flex flex-col gap-6">
      <TextField
        label="Where is the machine?"
        hint="Place and spot, as you would say it: “Lock cottage 3, scullery”."
        value={draft.place}
        maxLength={200}
        onChange={(place) => {
          set({ place });
        }}
      />
      {children}
      <fieldset>
        <legend className="pb-2 font-bold">Which layout is it?</legend>
        <details className="pb-3">
          <summary className="min-h-12 cursor-pointer content-center font-bold underline underline-offset-4">
            Tell it by what is seen
          </summary>
          <Recognise
            layouts={catalogue.layouts}
            onFound={(code) => {
              set({ layout: code });
            }}
          />
        </details>
        <OneChip
          label="Layout"
          options={catalogue.layouts.map((l) => ({ value: l.code, label: l.name }))}
          value={draft.layout}
          onChange={(value) => {
            set({ layout: value });
          }}
        />
        <p className="pt-2 text-sm text-ink-soft">
          Tap it once more to leave it open: what fits any layout can be measured, and the call waits for it.
        </p>
      </fieldset>
      <div className="grid gap-4 sm:grid-cols-2 lg:grid-cols-3">
        <TextField
          label="Plate speed, rpm"
          inputMode="decimal"
          value={draft.maxSpinRpm}
          onChange={(maxSpinRpm) => {
            set({ maxSpinRpm });
          }}
          hint="Fastest spin on the plate, if readable."
        />
        {layout?.drive === "belt" ? (
          <TextField
            label="Pulley ratio"
            inputMode="decimal"
            value={draft.pulleyRatio}
            onChange={(pulleyRatio) => {
              set({ pulleyRatio });
            }}
            hint="Motor turns per drum turn. Needed for belt slip."
          />
        ) : null}
        {layout?.drum === "front" ? (
          <>
            <ChoiceField
              label="Bearing next to the drum"
              empty="not known"
              options={bearings}
              value={draft.frontBearing}
              onChange={(frontBearing) => {
                set({ frontBearing });
              }}
            />
            <ChoiceField
              label="Outer bearing"
              empty="not known"
              options={bearings}
              value={draft.rearBearing}
              onChange={(rearBearing) => {
                set({ rearBearing });
              }}
            />
          </>
        ) : null}
        <TextField
          label="Age, years"
          inputMode="decimal"
          value={draft.ageYears}
          onChange={(ageYears) => {
            set({ ageYears });
          }}
        />
        <ChoiceField
          label="Mains"
          empty="not known"
          options={MAINS}
          value={draft.mainsHz}
          onChange={(mainsHz) => {
            set({ mainsHz });
          }}
        />
      </div>
      <section aria-label="What is told">
        <h2 className="pb-2 text-xl">What is told</h2>
        <Told
          catalogue={catalogue}
          layout={draft.layout}
          symptoms={draft.symptoms}
          details={draft.details}
          onChange={(symptoms, details) => {
            set({ symptoms, details });
          }}
        />
      </section>
      <div className="flex flex-col gap-1">
        <label htmlFor="job-note" className="font-bold">
          Note
        </label>
        <textarea
          id="job-note"
          rows={3}
          className="field py-2"
          value={draft.note}
          onChange={(event) => {
            set({ note: event.target.value });
          }}
        />
      </div>
    </div>
  );
}
