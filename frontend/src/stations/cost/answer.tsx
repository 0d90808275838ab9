import { useState } from "react";

import type { Job, OfferData, Option } from "../../api/client";
import { type Body, entryOf } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { useDraft } from "../../lib/draft";
import { moneyRange } from "../../lib/money";
import { Button } from "../../ui/button";
import { ManyChips, OneChip } from "../../ui/chips";
import { TextField } from "../../ui/field";
import { Trouble } from "../../ui/trouble";
import { Signature } from "./signature";

type Answer = Body<"decided">["answer"];
type Why = NonNullable<Body<"decided">["why"]>;
interface Typed {
  answer: Answer | "";
  why: Why | "";
  who: string;
  consents: string[];
  signature: string;
}

const EMPTY: Typed = { answer: "", why: "", who: "", consents: [], signature: "" };
const ANSWERS: readonly { value: Answer; label: string }[] = [
  { value: "yes", label: "Yes, do it" },
  { value: "wait", label: "Wait and listen again" },
  { value: "no", label: "No" },
  { value: "scrap", label: "Scrap it" },
];
const WHY: readonly { value: Why; label: string }[] = [
  { value: "price", label: "The price" },
  { value: "age", label: "The age" },
  { value: "wait", label: "The waiting" },
  { value: "replaces", label: "Buys a new one" },
  { value: "other", label: "Something else" },
];
const CONSENTS = [
  { value: "risks_told", label: "Risks and the other options were told" },
  { value: "extra_asked", label: "Anything extra is asked for first" },
  { value: "reused_gasket", label: "The old gasket may be used again" },
  { value: "workaround", label: "It is a workaround, with looks at set dates" },
  { value: "own_work", label: "Warranty covers our own work only" },
];
const DAY_MS = 86_400_000;
const LISTEN_AGAIN_DAYS = 21;

/** What the customer says to an option, signed; a refusal is a result too. */
export function CustomersAnswer({ job, offer, option }: { job: Job; offer: OfferData; option: Option }) {
  const { write, writing } = useWrite(job.id);
  const [typed, setTyped, clear] = useDraft<Typed>(`answer-${job.id}`, EMPTY);
  const [kept, setKept] = useState(false);
  const change = (part: Partial<Typed>) => {
    setKept(false);
    setTyped({ ...typed, ...part });
  };
  const decided = job.cost.decided;
  const ready = typed.answer !== "" && (typed.answer !== "yes" || typed.signature !== "");
  const keep = async () => {
    if (typed.answer === "") return;
    const options = offer.offer.options;
    const until = new Date(Date.now() + offer.valid_days * DAY_MS).toISOString().slice(0, 10);
    const entries = [
      entryOf("offered", { options: options.map((o) => offered(o, offer.currency)), valid_until: until }),
      entryOf("decided", {
        option: options.indexOf(option),
        answer: typed.answer,
        consents: typed.consents,
        ...(typed.why ? { why: typed.why } : {}),
        ...(typed.who ? { who: typed.who } : {}),
        ...(typed.signature ? { signature: typed.signature } : {}),
      }),
    ];
    if (typed.answer === "wait") {
      const due = new Date(Date.now() + LISTEN_AGAIN_DAYS * DAY_MS).toISOString().slice(0, 10);
      entries.push(entryOf("follow_up", { due, what: "Listen again: same recording, same place" }));
    }
    if (!(await write(entries))) return;
    setTyped(EMPTY);
    clear();
    setKept(true);
  };
  return (
    <section aria-label="The customer’s answer" className="flex flex-col gap-4 border-t-4 border-ink pt-4">
      <h2 className="text-2xl">What does the customer say?</h2>
      {decided ? (
        <p className="font-bold" role="status">
          So far: {sayingOf(decided["answer"])}
          {decided["who"] ? `, ${String(decided["who"])}` : ""}.
        </p>
      ) : null}
      <p>
        To: <strong>{option.name}</strong>, <span className="font-mono">{moneyRange(option.total, true)}</span>
      </p>
      <OneChip
        label="Answer"
        options={ANSWERS}
        value={typed.answer}
        onChange={(answer) => {
          change({ answer: answer as Answer | "" });
        }}
      />
      {typed.answer === "no" || typed.answer === "scrap" ? (
        <>
          <OneChip
            label="Why"
            options={WHY}
            value={typed.why}
            onChange={(why) => {
              change({ why: why as Why | "" });
            }}
          />
          <p className="max-w-prose">
            Leave it safe: unplugged, taps shut, and say what happens if it is run on as it is.
          </p>
        </>
      ) : null}
      {typed.answer === "yes" ? (
        <>
          <ManyChips
            label="Agreed to"
            options={CONSENTS}
            value={typed.consents}
            onChange={(consents) => {
              change({ consents });
            }}
          />
          <TextField
            label="Name"
            autoComplete="off"
            value={typed.who}
            onChange={(who) => {
              change({ who });
            }}
          />
          <Signature
            value={typed.signature}
            onChange={(signature) => {
              change({ signature });
            }}
          />
        </>
      ) : null}
      {writing.status === "not_kept" ? (
        <Trouble title="This device could not keep that." safe="What you entered is still here." />
      ) : null}
      {writing.status === "refused" ? <Trouble title={writing.refusal.message} safe="Nothing else changed." /> : null}
      {kept ? <p role="status">Kept, with all that was offered.</p> : null}
      <Button
        weight="strong"
        disabled={!ready || writing.status === "keeping"}
        onClick={() => {
          void keep();
        }}
      >
        Keep this answer
      </Button>
    </section>
  );
}

/** An option as the diary keeps it: the middle of its range is what is put to the customer. */
export function offered(option: Option, currency: string): Body<"offered">["options"][number] {
  const middle = (range: { low: { minor: number }; high: { minor: number } }) =>
    Math.round((range.low.minor + range.high.minor) / 2);
  return {
    path: option.paths.length > 0 ? [...option.paths] : [option.kind],
    lines: option.lines.map((line) => ({ code: line.code, text: line.text, amount: middle(line.amount), currency })),
    total: middle(option.total),
    currency,
    minutes: Math.round((option.minutes.low + option.minutes.high) / 2),
    days_without: option.days_without,
  };
}

function sayingOf(answer: unknown): string {
  return ANSWERS.find((a) => a.value === answer)?.label.toLowerCase() ?? String(answer);
}
