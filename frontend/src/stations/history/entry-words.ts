import type { Catalogue, HistoryEntry } from "../../api/client";
import { saidBy, words } from "../../lib/format";

type Said = Record<string, unknown>;

const KINDS: Record<string, string> = {
  machine: "Machine",
  contact: "Customer",
  told: "Told",
  code_shown: "Code shown",
  note: "Note",
  photo: "Photo",
  made_safe: "Made safe",
  power_back: "Power back on",
  bridged: "Interlock bridged",
  restored: "Interlock restored",
  check: "Hand check",
  timer: "Timer begun",
  timer_end: "Timer ended",
  recording: "Recording",
  recording_removed: "Recording removed",
  set_aside: "Set aside",
  called: "Called",
  priced: "Price",
  offered: "Offer",
  decided: "Decision",
  renewed_too: "Added to the order",
  taken_in: "Taken in",
  intake: "Looked over",
  kept_part: "Kept for the shelf",
  fitted_used: "Used part fitted",
  stands: "How it stands",
  step: "Step",
  counted: "Counted",
  compared: "Compared",
  seen: "Seen",
  proved: "Proof",
  found: "Found",
  follow_up: "Follow-up",
  closed: "Closed",
  reopened: "Opened again",
};

/** One entry in a line that a person reads. */
export function entryWords(entry: Pick<HistoryEntry, "kind" | "body">, catalogue: Catalogue | undefined): string {
  const kind = KINDS[entry.kind] ?? words(entry.kind);
  if (entry.body === null) return `${kind}: taken back`;
  const { body } = entry;
  const text = (key: string) => String(body[key] ?? "");
  const codes = { symptoms: catalogue?.symptoms ?? [], checks: catalogue?.checks ?? [] };
  const nameOf = (list: keyof typeof codes, code: string) =>
    codes[list].find((c) => c.code === code)?.name ?? words(code);
  switch (entry.kind) {
    case "told":
      return `${kind}: ${body["present"] === true ? "" : "not "}${nameOf("symptoms", text("symptom")).toLowerCase()}`;
    case "check":
      return `${nameOf("checks", text("check"))}: ${saidBy(body["values"] as Said)}`;
    case "recording":
      return `${kind}: ${text("file")}, ${words(text("test"))}`;
    case "proved": {
      const said = Object.keys(body["values"] ?? {}).length > 0 ? `: ${saidBy(body["values"] as Said)}` : "";
      // The tests are named by their step and proof; people know them by what is proved.
      return `${kind} ${body["passed"] === true ? "passed" : "failed"}, ${words(text("test").replace(/^p_/, ""))}${said}`;
    }
    case "note":
      return `${kind}: ${text("text")}`;
    default: {
      const rest = Object.entries(body).filter(([key]) => !isId(key));
      return rest.length === 0
        ? kind
        : `${kind}: ${rest.map(([key, value]) => `${words(key)} ${saidOf(value)}`).join(", ")}`;
    }
  }
}

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
  if (kind === "check") {
    const name = catalogue?.checks.find((c) => c.code === code)?.name ?? words(code);
    return [`“${name}”`, ...more.map(words)].join(", ");
  }
  if (kind === "told") return `“${catalogue?.symptoms.find((s) => s.code === subject)?.name ?? words(subject)}”`;
  return FACTS[subject] ?? words(subject.replaceAll(".", ", "));
}

function isId(key: string): boolean {
  return ["known_as", "restored", "timer", "recording", "photo", "analysis"].includes(key);
}

function saidOf(value: unknown): string {
  if (typeof value === "object" && value !== null) return saidBy(value as Said);
  return saidBy({ value });
}
