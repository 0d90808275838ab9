import { useState } from "react";

import type { Job, OfferData, Option } from "../../api/client";
import { type Body, entryOf } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { hoursRun, percent, unbroken } from "../../lib/format";
import { minorOf, money, moneyRange } from "../../lib/money";
import { Button } from "../../ui/button";
import { TextField } from "../../ui/field";

type Line = Option["lines"][number];

/** The lines of one option; a part's line opens to say its price. */
export function Lines({ job, option, offer }: { job: Job; option: Option; offer: OfferData }) {
  const { currency } = offer;
  const [open, setOpen] = useState<string | null>(null);
  return (
    <div className="flex flex-col gap-3 pt-3">
      {option.why ? <p className="max-w-prose">{option.why}</p> : null}
      <ul aria-label={`Lines of ${option.name}`} className="flex flex-col">
        {option.lines.map((line) => (
          <li key={line.code} className="border-b border-line py-1">
            {line.kind === "part" ? (
              <button
                type="button"
                aria-expanded={open === line.code}
                className="flex min-h-12 w-full flex-wrap items-baseline gap-x-3 text-left"
                onClick={() => {
                  setOpen(open === line.code ? null : line.code);
                }}
              >
                <span className="underline underline-offset-4">{line.text}</span>
                <Amount line={line} />
              </button>
            ) : (
              <p className="flex min-h-12 flex-wrap items-center gap-x-3">
                <span>{line.text}</span>
                <Amount line={line} />
              </p>
            )}
            {line.kind === "part" ? <FromTheShelf job={job} line={line} offer={offer} /> : null}
            {open === line.code ? (
              <PriceEntry
                job={job}
                line={line}
                currency={currency}
                onKept={() => {
                  setOpen(null);
                }}
              />
            ) : null}
          </li>
        ))}
      </ul>
      <Prepared job={job} option={option} />
      {option.wrong + option.callback > 0 ? (
        <p>
          Expected on top: <span className="font-mono">{money(option.extra, true)}</span>, from a chance of{" "}
          {percent(option.wrong)} that it is something else and {percent(option.callback)} to be called back.
        </p>
      ) : null}
      {option.look_first ? (
        <p className="max-w-prose">
          <strong>Look first.</strong> {option.look_first}
        </p>
      ) : null}
      {option.not_worth ? (
        <p className="max-w-prose">
          <strong>Not worth it where:</strong> {option.not_worth}
        </p>
      ) : null}
      <Workings option={option} />
    </div>
  );
}

/** How each number was worked out, every term named. */
function Workings({ option }: { option: Option }) {
  if (option.workings.length === 0) return null;
  return (
    <details>
      <summary className="min-h-12 cursor-pointer py-3 font-bold">How these numbers come about</summary>
      <dl className="flex max-w-prose flex-col gap-2 text-sm">
        {option.workings.map((working) => (
          <div key={working.of}>
            <dt className="font-bold first-letter:uppercase">{working.of}</dt>
            <dd>{unbroken(working.how)}</dd>
          </div>
        ))}
      </dl>
    </details>
  );
}

/** Parts that are renewed if need be: priced beforehand, on the order once somebody says so. */
function Prepared({ job, option }: { job: Job; option: Option }) {
  const { write } = useWrite(job.id);
  if (option.prepared.length === 0) return null;
  return (
    <div>
      <h3 className="font-bold">Ready to be added</h3>
      <ul aria-label={`Ready to be added to ${option.name}`}>
        {option.prepared.map((line) => {
          const added = job.cost.added.includes(line.code);
          return (
            <li key={line.code} className="flex flex-wrap items-center gap-x-4 border-b border-line py-1">
              <label className="flex min-h-12 items-center gap-3">
                <input
                  type="checkbox"
                  className="size-6"
                  checked={added}
                  onChange={() => {
                    const part = line.code as Body<"renewed_too">["part"];
                    void write([entryOf("renewed_too", { part, wanted: !added })]);
                  }}
                />
                <span>
                  {line.text} <span className="block text-sm text-ink-soft">{line.why}</span>
                </span>
              </label>
              <Amount line={line} />
            </li>
          );
        })}
      </ul>
    </div>
  );
}

/** Used ones of the same layout that lie on the shelf: one tap puts one into this job at the shop's share of a new one. */
function FromTheShelf({ job, line, offer }: { job: Job; line: Line; offer: OfferData }) {
  const { write } = useWrite(job.id);
  const there = offer.used.filter((used) => used.part === line.code && used.job !== job.id);
  if (there.length === 0) return null;
  const middle = (line.amount.low.minor + line.amount.high.minor) / 2;
  const amount = Math.round((middle * offer.used_part_percent) / 100);
  return (
    <ul className="pb-2 text-sm" aria-label={`Used: ${line.text}`}>
      {there.map((used) => {
        const from = [used.shelf, hoursRun(used.hours), `from ${used.place}`].filter((t) => t !== "").join(", ");
        return (
          <li key={used.entry} className="flex flex-wrap items-center gap-x-4">
            <span>
              A used one, {used.condition === "tested" ? "tested" : "looks sound"}, {from}: hold old and new together.
            </span>
            <Button
              onClick={() => {
                const part = line.code as Body<"fitted_used">["part"];
                void write([
                  entryOf("fitted_used", { kept: used.entry, part }),
                  entryOf("priced", { part: line.code, amount, currency: offer.currency, source: `used, ${from}` }),
                ]);
              }}
            >
              Use it for {money({ minor: amount, currency: offer.currency })}
            </Button>
          </li>
        );
      })}
    </ul>
  );
}

function Amount({ line }: { line: Line }) {
  return (
    <span className="ml-auto text-right font-mono">
      {moneyRange(line.amount)}
      {line.typical ? <span className="block font-sans text-sm">typical, price not asked</span> : null}
      {line.source && line.source !== "shop" ? <span className="block font-sans text-sm">{line.source}</span> : null}
    </span>
  );
}

function PriceEntry({ job, line, currency, onKept }: { job: Job; line: Line; currency: string; onKept: () => void }) {
  const { write, writing } = useWrite(job.id);
  const [typed, setTyped] = useState("");
  const [source, setSource] = useState("");
  const [day, setDay] = useState("");
  const [returnable, setReturnable] = useState(false);
  const amount = minorOf(typed, currency);
  return (
    <form
      className="flex flex-col gap-3 pb-4"
      onSubmit={(event) => {
        event.preventDefault();
        if (amount === null) return;
        const body = {
          part: line.code,
          amount,
          currency,
          ...(source ? { source } : {}),
          ...(day ? { available_on: day } : {}),
          ...(returnable ? { returnable } : {}),
        };
        void write([entryOf("priced", body)]).then((kept) => {
          if (kept) onKept();
        });
      }}
    >
      <div className="grid gap-3 sm:grid-cols-3">
        <TextField label={`Price in ${currency}`} inputMode="decimal" autoFocus value={typed} onChange={setTyped} />
        <TextField label="From whom" value={source} onChange={setSource} />
        <TextField label="Here on" type="date" value={day} onChange={setDay} />
      </div>
      <label className="flex min-h-12 items-center gap-3">
        <input
          type="checkbox"
          className="size-6"
          checked={returnable}
          onChange={(event) => {
            setReturnable(event.target.checked);
          }}
        />
        goes back if it is not needed
      </label>
      {typed !== "" && amount === null ? <p role="alert">That is no amount: digits, such as 24.50.</p> : null}
      <Button type="submit" weight="strong" disabled={amount === null || writing.status === "keeping"}>
        Keep this price
      </Button>
    </form>
  );
}
