import type { Catalogue, HistoryEntry } from "../../api/client";
import type { Body, EntryKind } from "../../device/entries";
import { day, saidBy, unbroken, within, words } from "../../lib/format";
import { money } from "../../lib/money";
import { adviceShape } from "../board/advice";
import { namesOf, type Names } from "./names";

type Told = Pick<HistoryEntry, "kind" | "body">;

/** One entry in a line that a person reads. before : the one that it takes back, where it does and that is known */
export function entryWords(entry: Told, catalogue: Catalogue | undefined, before?: Told): string {
  if (entry.body === null) return before?.body ? `Taken back: ${entryWords(before, catalogue)}` : "Taken back";
  const [head, say] = SAID[entry.kind as EntryKind] ?? [words(entry.kind), () => ""];
  // Kind and body belong together since the server took them; its table below is checked kind by kind.
  const said = (say as (body: unknown, names: Names) => string)(entry.body, namesOf(catalogue));
  if (head === "") return unbroken(said);
  return unbroken(said === "" ? head : `${head}: ${said}`);
}

type Say<K extends EntryKind> = readonly [head: string, say: (body: Body<K>, names: Names) => string];

/** What stands before the colon, and what behind it. */
const SAID: { readonly [K in EntryKind]: Say<K> } = {
  machine: ["Machine", machineWords],
  contact: [
    "Customer",
    (b) => list([b.name, b.phone, b.access_note != null && b.access_note !== "" ? `way in: ${b.access_note}` : ""]),
  ],
  told: [
    "Told",
    (b, names) =>
      list([
        `${b.present ? "" : "not "}${names.symptom(b.symptom).toLowerCase()}`,
        b.phase == null ? "" : words(b.phase),
        b.since == null ? "" : `since ${words(b.since)}`,
        b.loads == null ? "" : `${words(b.loads)} loads`,
        b.after == null ? "" : `after ${words(b.after)}`,
      ]),
  ],
  code_shown: ["Code shown", (b, names) => list([b.text, b.means == null ? "" : within(names.symptom(b.means))])],
  note: ["Note", (b) => b.text],
  photo: ["Photo", (b) => list([b.role == null ? "" : words(b.role), b.about == null ? "" : words(b.about)])],
  made_safe: ["Made safe", (b) => list(Object.keys(b).map(words))],
  power_back: ["Power back on", (b) => b.why ?? ""],
  bridged: ["Interlock bridged", (b) => b.where],
  restored: ["Interlock restored", () => ""],
  check: ["", (b, names) => `${names.check(b.check)}: ${names.readings(b.check, { ...b.values })}`],
  timer: ["Wait begun", (b) => `${words(b.for)}, ${b.minutes.toFixed(0)} min`],
  timer_end: ["Wait ended", (b) => words(b.how)],
  recording: ["Recording", (b) => list([b.file, words(b.test), b.load == null ? "" : `drum ${b.load}`])],
  recording_removed: ["Recording removed", (b) => b.why ?? ""],
  set_aside: ["Set aside", (b, names) => list([within(names.finding(b.finding)), b.why])],
  called: [
    "",
    (b, names) => {
      const faults = b.faults.map((code) => within(names.fault(code))).join(" and ");
      return b.own_view != null && b.own_view !== ""
        ? `Own view: ${faults}: ${b.own_view}`
        : list([`Went by the call: ${faults}`, b.advice == null ? "" : adviceShape(b.advice).words]);
    },
  ],
  priced: [
    "Price",
    (b, names) =>
      list([
        b.part != null ? within(names.part(b.part)) : words(b.service ?? ""),
        money({ minor: b.amount, currency: b.currency }),
        b.source ?? "",
        b.available_on != null ? `there on ${day(b.available_on)}` : "",
        b.returnable === false ? "does not go back" : "",
      ]),
  ],
  renewed_too: [
    "",
    (b, names) => `${b.wanted ? "On the order as well" : "Off the order again"}: ${names.part(b.part)}`,
  ],
  offered: [
    "Offered",
    (b, names) =>
      b.options
        .map((o) => {
          const way = o.path.map((code) => within(names.path(code))).join(" and ");
          return o.currency == null ? way : `${way} ${money({ minor: o.total, currency: o.currency }, true)}`;
        })
        .filter((said) => said !== "")
        .join("; "),
  ],
  decided: [
    "Customer’s answer",
    (b) =>
      list([
        b.answer,
        b.why == null ? "" : `because of ${words(b.why)}`,
        b.who ?? "",
        (b.consents ?? []).length > 0 ? `agreed to: ${(b.consents ?? []).map(words).join(" and ")}` : "",
        b.signature == null ? "" : "signed",
      ]),
  ],
  stands: [
    "How it stands",
    (b) =>
      list([
        b.posture == null ? "" : words(b.posture),
        b.people == null ? "" : `${String(b.people)} people`,
        b.exit == null ? "" : words(b.exit),
        b.panel == null ? "" : words(b.panel),
        b.seam == null ? "" : `seam ${words(b.seam)}`,
      ]),
  ],
  step: [
    "",
    (b, names) => {
      const rung = b.rung == null ? "" : `, rung ${String(b.rung)} of the ladder`;
      return `${STEP[b.state][b.way]}: ${names.step(b.step)}${rung}`;
    },
  ],
  counted: [
    "Counted",
    (b, names) =>
      list([
        `${within(names.step(b.step))}, ${words(b.group)}`,
        b.out == null ? "" : `${String(b.out)} out`,
        b.in == null ? "" : `${String(b.in)} in`,
      ]),
  ],
  compared: ["Beside the old one", (b, names) => `${within(names.part(b.part))} ${b.same ? "is the same" : "differs"}`],
  seen: ["Seen", (b, names) => `${within(names.part(b.part))}, ${words(b.condition)}`],
  proved: [
    "",
    (b, names) => {
      const values = Object.keys(b.values ?? {}).length > 0 ? `: ${saidBy({ ...b.values })}` : "";
      return `Proof ${b.passed ? "passed" : "failed"}, ${within(names.proof(b.test))}${values}`;
    },
  ],
  found: [
    "Really wrong",
    (b, names) => {
      const there = b.faults.map((code) => within(names.fault(code))).join(" and ");
      const sound = (b.not_there ?? []).map((code) => within(names.fault(code)));
      return sound.length > 0 ? `${there}; sound: ${sound.join(", ")}` : there;
    },
  ],
  follow_up: ["", (b) => (b.done === true ? `Came back: ${b.what}` : `Coming back ${day(b.due)}: ${b.what}`)],
  taken_in: [
    "Taken in",
    (b) =>
      list([
        words(b.how),
        b.paid != null && b.currency != null ? money({ minor: b.paid, currency: b.currency }) : "",
        b.history ?? "",
      ]),
  ],
  intake: ["Looked over", (b, names) => `${within(names.intake(b.row))}, ${words(b.result)}`],
  kept_part: [
    "Kept for the shelf",
    (b, names) => list([within(names.part(b.part)), words(b.condition), b.shelf ?? ""]),
  ],
  fitted_used: ["Used part fitted", (b, names) => within(names.part(b.part))],
  closed: ["Closed", (b) => list([words(b.outcome), b.why ?? ""])],
  reopened: ["Opened again", (b) => b.why ?? ""],
};

const STEP = {
  done: { off: "Done", on: "Way back" },
  skipped: { off: "Left out", on: "Left out, way back" },
  stuck: { off: "Stuck", on: "Stuck, way back" },
} as const;

function machineWords(b: Body<"machine">, names: Names): string {
  const told = (key: keyof typeof b, say: (value: string) => string) => {
    const value = b[key];
    if (value === undefined) return "";
    return value === null ? `${words(key)} no longer known` : say(String(value));
  };
  return list([
    told("place", (v) => v),
    told("known_as", () => "one that was met before"),
    told("layout", (v) => within(names.layout(v))),
    told("max_spin_rpm", (v) => `plate ${v} rpm`),
    told("pulley_ratio", (v) => `pulley ratio ${v}`),
    told("mains_hz", (v) => `mains ${v} Hz`),
    b.bearings?.front == null ? "" : `bearing next to the drum ${b.bearings.front}`,
    b.bearings?.rear == null ? "" : `outer bearing ${b.bearings.rear}`,
    told("spider_arms", (v) => `${v} arms`),
    told("age_years", (v) => `${v} years old`),
    told("stacked", (v) => (v === "true" ? "a dryer on top" : "no dryer on top")),
    told("column_with", () => "in a column with another machine"),
    told("acquired", (v) => `got ${words(v)}`),
    told("serial_note", (v) => `plate’s note ${v}`),
  ]);
}

/** What was said, one after the other. */
function list(parts: readonly (string | null | undefined)[]): string {
  return parts.filter((part) => part != null && part !== "").join(", ");
}
