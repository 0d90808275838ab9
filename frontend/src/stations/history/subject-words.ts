import type { Catalogue } from "../../api/client";
import { words } from "../../lib/format";
import { namesOf } from "./names";

const FACTS: Record<string, string> = {
  layout: "the layout",
  mains_hz: "the mains",
  max_spin_rpm: "the plate speed",
  pulley_ratio: "the pulley ratio",
  "bearings.front": "the bearing next to the drum",
  "bearings.rear": "the outer bearing",
  age_years: "the machine’s age",
  stacked: "whether a dryer stands on top",
  place: "where the machine is",
};

/** What two entries speak of, in words: a check and its corner, a symptom, a fact of the machine. */
export function subjectWords(kind: string, subject: string, catalogue: Catalogue | undefined): string {
  const [code = "", ...more] = subject.split(".");
  const names = namesOf(catalogue);
  if (kind === "check") return [`“${names.check(code)}”`, ...more.map(words)].join(", ");
  if (kind === "told") return `“${names.symptom(subject)}”`;
  return FACTS[subject] ?? words(subject.replaceAll(".", ", "));
}
