import { useState } from "react";

import type { Catalogue } from "../../api/client";
import { words } from "../../lib/format";
import { ManyChips, OneChip } from "../../ui/chips";
import { Examples } from "./examples";
import type { Telling, TellingDetails } from "./story-entries";

const DETAILS = [
  { key: "since", ask: "Since when?", values: ["today", "days", "weeks", "months", "always"] },
  { key: "loads", ask: "With which loads?", values: ["any", "heavy", "single_heavy", "empty_too"] },
  { key: "after", ask: "After what?", values: ["move", "repair", "heavy_item", "nothing"] },
] as const;

// Offers everything, and tells no phase.
const NOT_TOLD = "not_told";
const WATER: readonly string[] = ["leak_centre", "leak_rear", "rust_marks"];
const SMELL: readonly string[] = ["burnt_smell", "stops_when_hot"];
const GROUPS = [
  {
    ask: "What is it like?",
    label: "Symptoms",
    holds: (code: string) => !WATER.includes(code) && !SMELL.includes(code),
  },
  { ask: "Water, where?", label: "Water", holds: (code: string) => WATER.includes(code) },
  { ask: "Smell or heat?", label: "Smell or heat", holds: (code: string) => SMELL.includes(code) },
] as const;

/** What is told: first when it is, then what it is like, then since when, with what, after what. Nothing is typed. */
export function Told({
  catalogue,
  layout,
  telling,
  onChange,
}: {
  catalogue: Catalogue;
  layout: string;
  telling: Telling;
  onChange: (telling: Telling) => void;
}) {
  const { symptoms, details } = telling;
  const [phase, setPhase] = useState("");
  const phases = catalogue.phases.map((value) => ({
    value,
    label: value === "always" ? "whatever it does" : words(value),
  }));
  const offered = catalogue.symptoms.filter(
    (s) => phase === NOT_TOLD || (phase !== "" && s.phases.includes(phase)) || symptoms.includes(s.code),
  );
  const detail = (symptom: string, change: TellingDetails) => {
    onChange({ symptoms, details: { ...details, [symptom]: { ...details[symptom], ...change } } });
  };
  const choose = (next: readonly string[]) => {
    const added = next.filter((code) => !symptoms.includes(code));
    const known = phase !== "" && phase !== NOT_TOLD ? { phase } : {};
    onChange({ symptoms: next, details: { ...details, ...Object.fromEntries(added.map((code) => [code, known])) } });
  };
  return (
    <div className="flex flex-col gap-4">
      <fieldset>
        <legend className="pb-2 font-bold">When is it?</legend>
        <OneChip
          label="When is it"
          options={[...phases, { value: NOT_TOLD, label: "nobody can say" }]}
          value={phase}
          onChange={setPhase}
        />
      </fieldset>
      {GROUPS.map(({ ask, label, holds }) => {
        const options = offered.filter((s) => holds(s.code)).map((s) => ({ value: s.code, label: s.name }));
        const others = symptoms.filter((code) => !holds(code));
        if (options.length === 0) return null;
        return (
          <fieldset key={label}>
            <legend className="pb-2 font-bold">{ask}</legend>
            <ManyChips
              label={label}
              options={options}
              value={symptoms.filter(holds)}
              onChange={(next) => {
                choose([...others, ...next]);
              }}
            />
          </fieldset>
        );
      })}
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
