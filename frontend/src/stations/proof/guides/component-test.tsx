import { Link } from "react-router";

import type { Catalogue, Job, ServiceModeData } from "../../../api/client";
import { type AnyEntry, type Body, entryOf } from "../../../device/entries";
import { useDraft } from "../../../lib/draft";
import { useNow } from "../../../lib/now";
import { Button } from "../../../ui/button";
import { ManyChips, OneChip } from "../../../ui/chips";

type Said = "seen" | "heard" | "missing";
interface Draft {
  rows: Record<string, Said>;
  asides: string[];
  since: number | null;
}
const NOTHING: Draft = { rows: {}, asides: [], since: null };
const STATES = [
  { value: "seen", label: "Seen" },
  { value: "heard", label: "Heard" },
  { value: "missing", label: "Missing" },
];

/**
 * The machine's own test row by row: seen, heard or missing. A wait is told from a failure by how long a sound machine
 * may take; what is missing, and what was seen beside it, goes to the call.
 */
export function ComponentTest({
  job,
  mode,
  catalogue,
  onWrite,
}: {
  job: Job;
  mode: ServiceModeData;
  catalogue: Catalogue;
  onWrite: (entries: readonly AnyEntry[]) => Promise<boolean>;
}) {
  const [draft, setDraft, clear] = useDraft<Draft>(`component-test-${job.id}`, NOTHING);
  const now = useNow(draft.since !== null);
  const next = mode.rows.find((row) => draft.rows[row.code] === undefined);
  const waited = draft.since === null ? 0 : Math.max(0, Math.round((now - draft.since) / 1000));
  const say = (code: string, said: string) => {
    const rows = Object.fromEntries(Object.entries(draft.rows).filter(([row]) => row !== code));
    if (said !== "") rows[code] = said as Said;
    setDraft({ ...draft, rows, since: Date.now() });
  };
  const kept = job.proof.proved.find((p) => p.test === "auto_test");
  const missing = mode.rows.filter((row) => (rowsOf(kept?.values) ?? {})[row.code] === "missing");
  const keep = async () => {
    const gone = mode.rows.filter((row) => draft.rows[row.code] === "missing");
    const told = [
      ...gone.flatMap((row) => row.told ?? []),
      ...mode.asides.filter((a) => draft.asides.includes(a.code)).map((a) => a.told),
    ];
    const entries = [
      entryOf("proved", {
        test: "auto_test",
        passed: gone.length === 0,
        values: { rows: draft.rows, asides: draft.asides },
      }),
      // Symptoms are written down in the knowledge, which is where their type comes from as well.
      ...[...new Set(told)].map((symptom) => entryOf("told", { symptom, present: true } as Body<"told">)),
    ];
    if (!(await onWrite(entries))) return;
    setDraft(NOTHING);
    clear();
  };
  return (
    <section aria-label="Component test" className="flex flex-col gap-4">
      {draft.since === null ? (
        <Button
          weight="strong"
          className="self-start"
          onClick={() => {
            setDraft({ ...NOTHING, since: Date.now() });
          }}
        >
          {kept ? "The test begins: once more" : "The test begins now"}
        </Button>
      ) : (
        <>
          <ol className="flex flex-col gap-3">
            {mode.rows.map((row, k) => {
              const longest = row.longest_wait_s;
              const isNext = row.code === next?.code;
              return (
                <li key={row.code} className={`sheet px-4 py-3 ${isNext ? "border-ink" : ""}`}>
                  <p className={isNext ? "text-lg font-bold" : ""}>
                    {k + 1}. {row.name}
                  </p>
                  {isNext ? (
                    <p role="status" className="text-ink-soft">
                      {waited < longest
                        ? `${String(waited)} s: a sound machine may take ${longest.toFixed(0)} s. ${row.wait_says}`
                        : `${String(waited)} s: longer than a sound machine takes.`}
                    </p>
                  ) : null}
                  <OneChip
                    label={row.name}
                    options={STATES}
                    value={draft.rows[row.code] ?? ""}
                    onChange={(said) => {
                      say(row.code, said);
                    }}
                  />
                  {draft.rows[row.code] === "missing" ? <p className="pt-2">{row.missing}</p> : null}
                </li>
              );
            })}
          </ol>
          <div>
            <p className="pb-2 font-bold">Seen beside it</p>
            <ManyChips
              label="Seen beside it"
              options={mode.asides.map((a) => ({ value: a.code, label: a.name }))}
              value={draft.asides}
              onChange={(asides) => {
                setDraft({ ...draft, asides });
              }}
            />
          </div>
          <div className="sticky bottom-(--undo-line) flex flex-wrap gap-3 bg-enamel py-3">
            <Button weight="strong" disabled={next !== undefined} onClick={() => void keep()}>
              {next ? `${String(mode.rows.length - Object.keys(draft.rows).length)} rows to go` : "Keep and weigh it"}
            </Button>
            <Button
              weight="quiet"
              onClick={() => {
                setDraft(NOTHING);
              }}
            >
              Leave it
            </Button>
          </div>
        </>
      )}
      {kept && draft.since === null ? (
        <div className="flex flex-col gap-2">
          <p className="text-lg font-bold">
            {missing.length === 0
              ? "Every row was seen or heard."
              : `Missing: ${missing.map((row) => row.name.toLowerCase()).join("; ")}.`}
          </p>
          {missing.map((row) => (
            <div key={row.code}>
              <p>{row.missing}</p>
              <ul className="flex flex-wrap gap-x-5">
                {catalogue.checks
                  .filter(
                    (c) =>
                      row.checks.includes(c.code) && (c.layouts.length === 0 || c.layouts.includes(mode.layout ?? "")),
                  )
                  .map((c) => (
                    <li key={c.code}>
                      <Link
                        className="inline-flex min-h-12 items-center underline underline-offset-4"
                        to={`/jobs/${job.id}/hands/${c.code}`}
                      >
                        {c.name}
                      </Link>
                    </li>
                  ))}
              </ul>
            </div>
          ))}
        </div>
      ) : null}
    </section>
  );
}

function rowsOf(values: Readonly<Record<string, unknown>> | undefined): Readonly<Record<string, unknown>> | null {
  const rows = values?.["rows"];
  return typeof rows === "object" && rows !== null ? (rows as Readonly<Record<string, unknown>>) : null;
}
