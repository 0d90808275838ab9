import { useState } from "react";

import type { Catalogue } from "../../api/client";
import { words } from "../../lib/format";
import { ManyChips, OneChip } from "../../ui/chips";
import { Examples } from "./examples";
import type { TellingDetails } from "../new-job/draft";

const DETAILS = [
  { key: "since", ask: "Since when?", values: ["today", "days", "weeks", "months", "always"] },
  { key: "loads", ask: "With which loads?", values: ["any", "heavy", "single_heavy", "empty_too"] },
  { key: "after", ask: "After what?", values: ["move", "repair", "heavy_item", "nothing"] },
] as const;

/** What is told: first when it is, then what it is like, then since when, with what, after what. Nothing is typed. */
export function Told({
  catalogue,
  layout,
  symptoms,
  details,
  onChange,
}: {
  catalogue: Catalogue;
  layout: string;
  symptoms: readonly string[];
  details: Readonly<Record<string, TellingDetails>>;
  onChange: (symptoms: string[], details: Record<string, TellingDetails>) => void;
}) {
  const [phase, setPhase] = useState("");
  const phases = catalogue.phases.map((value) => ({
    value,
    label: value === "always" ? "whatever it does" : words(value),
  }));
  const options = catalogue.symptoms
    .filter((s) => phase === "" || s.phases.includes(phase) || symptoms.includes(s.code))
    .map((s) => ({ value: s.code, label: s.name }));
  const detail = (symptom: string, change: TellingDetails) => {
    onChange([...symptoms], { ...details, [symptom]: { ...details[symptom], ...change } });
  };
  const choose = (next: string[]) => {
    const added = next.filter((code) => !symptoms.includes(code));
    const told = phase === "" ? {} : Object.fromEntries(added.map((code) => [code, { phase }]));
    onChange(next, { ...details, ...told });
  };
  return (
    <div className="flex flex-col gap-4">
      <fieldset>
        <legend className="pb-2 font-bold">When is it?</legend>
        <OneChip label="When is it" options={phases} value={phase} onChange={setPhase} />
      </fieldset>
      <fieldset>
        <legend className="pb-2 font-bold">What is it like?</legend>
        <ManyChips label="Symptoms" options={options} value={[...symptoms]} onChange={choose} />
      </fieldset>
      <Examples
        catalogue={catalogue}
        layout={layout}
        phase={phase}
        chosen={symptoms}
        onPoint={(code) => {
          choose(symptoms.includes(code) ? symptoms.filter((s) => s !== code) : [...symptoms, code]);
        }}
      />
      {symptoms.map((symptom) => {
        const name = catalogue.symptoms.find((s) => s.code === symptom)?.name ?? words(symptom);
        const told = details[symptom] ?? {};
        return (
          <details key={symptom} className="sheet px-4 py-1">
            <summary className="min-h-12 cursor-pointer content-center">
              <span className="font-bold">{name}</span> <span className="text-ink-soft">{said(told)}</span>
            </summary>
            <div className="flex flex-col gap-3 pb-3">
              {DETAILS.map(({ key, ask, values }) => (
                <fieldset key={key}>
                  <legend className="pb-1">{ask}</legend>
                  <OneChip
                    label={`${name}: ${ask}`}
                    options={values.map((value) => ({ value, label: words(value) }))}
                    value={told[key] ?? ""}
                    onChange={(value) => {
                      detail(symptom, { [key]: value });
                    }}
                  />
                </fieldset>
              ))}
            </div>
          </details>
        );
      })}
    </div>
  );
}

function said(told: TellingDetails): string {
  const parts = [
    told.phase,
    told.since && `since ${told.since}`,
    told.loads && `${told.loads} loads`,
    told.after && `after ${told.after}`,
  ];
  const known = parts.filter((part) => part !== undefined && part !== "").map((part) => words(String(part)));
  return known.length > 0 ? known.join(", ") : "since when, with what, after what?";
}
