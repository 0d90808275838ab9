import type { Job, Result, Schemas } from "../../api/client";
import { signedDb, unbroken, words } from "../../lib/format";
import { Remark } from "../../ui/trouble";
import { figureTold } from "./figure-told";
import { type Figure, figures } from "./figures";

type Words = Schemas["FigureOut"];

/** What was measured, each figure with where it comes from. isNarrow : something else stands beside it on a wide screen. */
export function Figures({
  result,
  job,
  words: told,
  isNarrow,
}: {
  result: Result;
  job: Job;
  words: readonly Words[];
  isNarrow: boolean;
}) {
  const rows = figures(result);
  const missing = result.warnings.filter((w) => w.code === "not_measured");
  if (rows.length === 0 && result.warnings.length === 0) return null;
  return (
    <section aria-label="Figures" className="flex flex-col gap-4">
      <ul className={isNarrow ? "gap-x-8 md:max-lg:columns-2" : "gap-x-8 md:columns-2"}>
        {rows.map((row) => (
          <FigureRow
            key={row.code}
            figure={row}
            result={result}
            job={job}
            said={told.find((one) => one.code === row.code)}
          />
        ))}
      </ul>
      <div className={`grid content-start gap-3 md:gap-x-8 ${isNarrow ? "md:max-lg:grid-cols-2" : "md:grid-cols-2"}`}>
        {result.warnings
          .filter((w) => w.code !== "not_measured")
          .map((w) => (
            <Remark key={w.message}>{w.message}</Remark>
          ))}
        {missing.length > 0 ? (
          <div>
            <p className="font-bold">Not measured, and why</p>
            <ul className="list-disc pl-5 text-ink-soft">
              {missing.map((w) => (
                <li key={w.message}>{w.message}</li>
              ))}
            </ul>
          </div>
        ) : null}
      </div>
    </section>
  );
}

/** One figure; tapped, it tells how far to trust it, what it was made from and how, and what the call made of it. */
function FigureRow({
  figure,
  result,
  job,
  said,
}: {
  figure: Figure;
  result: Result;
  job: Job;
  said: Words | undefined;
}) {
  const line = (
    <span className="flex flex-1 items-baseline justify-between gap-4">
      <span>{said?.name ?? words(figure.code)}</span>
      <span className="text-right font-mono">{unbroken(figure.value)}</span>
    </span>
  );
  if (!said) return <li className="flex break-inside-avoid border-b border-line py-1.5">{line}</li>;
  const sigma = result.measurements[`${figure.code}_sigma`];
  const from = job.recordings.filter(
    (r) => said.rests_on.includes(r.kind) && r.test === "spin" && (result.run == null || r.run === result.run),
  );
  const read = figureTold(result, said.findings);
  return (
    <li className="break-inside-avoid border-b border-line">
      <details className="group">
        <summary className="flex min-h-12 cursor-pointer list-none items-center gap-2 py-1.5 md:min-h-8 md:py-1">
          <span aria-hidden="true" className="font-mono text-ink-soft group-open:rotate-90">
            ›
          </span>
          {line}
        </summary>
        <div className="flex max-w-prose flex-col gap-2 pb-4 pl-5 text-sm">
          <p>{said.how}</p>
          <p>
            <strong>Good to:</strong>{" "}
            {sigma != null
              ? "the error behind ±. Made again, two times in three it would come out within it."
              : said.good_to || "measured before errors were kept: measure again to know."}
          </p>
          {from.length > 0 ? (
            <p>
              <strong>From:</strong>{" "}
              {from.map((r) => (r.position ? `${r.name}, ${words(r.position)}` : r.name)).join("; ")}
            </p>
          ) : null}
          {read.map((one) => (
            <p key={one.finding}>
              <strong>{one.finding}:</strong> read as “{words(one.level)}”.{" "}
              {one.moved.length > 0
                ? `${one.moved.map((m) => `${m.short} ${signedDb(m.decibans)}`).join(", ")}.`
                : "It hardly moves the odds."}
            </p>
          ))}
          {read.some((one) => one.moved.length > 0) ? <p>10 dB make ten to one out of even odds.</p> : null}
          {read.length === 0 ? (
            <p>
              {said.findings.length === 0
                ? "To compare by; the call does not read it."
                : "The call does not rest on it this time."}
            </p>
          ) : null}
          <p className="text-ink-soft">{said.source}</p>
        </div>
      </details>
    </li>
  );
}
