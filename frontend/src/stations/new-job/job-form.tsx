import type { Catalogue } from "../../api/client";
import { ManyChips, OneChip } from "../../ui/chips";
import { ChoiceField, TextField } from "../../ui/field";
import type { JobDraft } from "./draft";

const MAINS = [
  { value: "50", label: "50 Hz" },
  { value: "60", label: "60 Hz" },
];

/** Everything told and read off the plate; only place and layout are needed. */
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
        <OneChip
          label="Layout"
          options={catalogue.layouts.map((l) => ({ value: l.code, label: l.name }))}
          value={draft.layout}
          onChange={(value) => {
            if (value) set({ layout: value });
          }}
        />
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
      <fieldset>
        <legend className="pb-2 font-bold">What does the customer tell?</legend>
        <ManyChips
          label="Symptoms"
          options={catalogue.symptoms.map((s) => ({ value: s.code, label: s.name }))}
          value={draft.symptoms}
          onChange={(symptoms) => {
            set({ symptoms });
          }}
        />
      </fieldset>
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
