import type { ProofData, Schemas } from "../../api/client";
import { unbroken } from "../../lib/format";
import { Keepable } from "../../marks/graphs/keepable";
import { changesTable } from "../../marks/graphs/tables";
import { Button } from "../../ui/button";
import { Trouble } from "../../ui/trouble";
import { useEar } from "../spin/ear/use-ear";

type Compared = NonNullable<ProofData["before_after"]>;
type Change = Schemas["Change"];

const WIDTH = 300;
const ROW = 34;

/** The machine before and after: one sentence, then each quantity as two pegs on a line. */
export function BeforeAfter({ compared, jobId }: { compared: Compared; jobId: string }) {
  const { changes, bands, problems } = compared;
  const isAlike = (c: Change) => c.healthy_before && c.healthy_after && !c.clear;
  const told = changes.filter((c) => !isAlike(c));
  const alike = changes.filter(isAlike);
  return (
    <section aria-label="Before and after" className="sheet flex flex-col gap-4 p-4">
      <h2 className="text-2xl">{unbroken(compared.says)}</h2>
      {problems.map((problem) => (
        <p key={problem} className="font-bold">
          {problem}
        </p>
      ))}
      {changes.length > 0 ? (
        <Keepable name="Before and after" table={() => changesTable(changes)}>
          <p className="flex gap-4 text-sm">
            <span>○ before</span>
            <span>● after</span>
          </p>
          <Rows changes={told} />
          {alike.length > 0 ? (
            <details>
              <summary className="min-h-12 cursor-pointer py-3">{alike.length} more, healthy before and after</summary>
              <Rows changes={alike} />
            </details>
          ) : null}
        </Keepable>
      ) : null}
      {bands.length > 0 ? (
        <ul aria-label="Bands of sound">
          {bands.map((band) => (
            <li key={band.low_hz} className="font-mono">
              {hertz(band.low_hz)} to {hertz(band.high_hz)}: {band.db > 0 ? "+" : "−"}
              {Math.abs(band.db).toFixed(0)} ± {band.sigma_db.toFixed(0)} dB
            </li>
          ))}
        </ul>
      ) : null}
      {compared.shake_db != null && compared.shake_sigma_db != null ? (
        <p>
          Once-per-turn shaking at equal speed:{" "}
          <span className="font-mono">
            {compared.shake_db > 0 ? "+" : "−"}
            {Math.abs(compared.shake_db).toFixed(1)} ± {compared.shake_sigma_db.toFixed(1)} dB
          </span>
        </p>
      ) : null}
      <InTurns jobId={jobId} />
    </section>
  );
}

/** Both spins for the ear, one after the other and again, at one loudness and one speed. */
function InTurns({ jobId }: { jobId: string }) {
  const { hearing, hear } = useEar();
  const url = `/api/jobs/${jobId}/listen?way=before_after`;
  return (
    <div className="flex flex-col gap-2">
      <Button
        onClick={() => {
          hear("before_after", url);
        }}
        disabled={hearing.status === "fetching"}
      >
        {hearing.status === "fetching" ? "Laying both side by side …" : "Hear before and after in turns"}
      </Button>
      {hearing.status === "failed" ? <Trouble title={hearing.message} safe="Both recordings are kept." /> : null}
      {hearing.status === "heard" ? (
        <figure>
          <figcaption>
            Before first, then after, and again, at one loudness
            {hearing.speed_rpm === null ? "" : `, both near ${hearing.speed_rpm.toFixed(0)} rpm`}.
          </figcaption>
          <audio
            key={hearing.url}
            controls
            autoPlay
            className="mt-2 w-full"
            src={hearing.url}
            aria-label="Before and after in turns"
          />
        </figure>
      ) : null}
    </div>
  );
}

function Rows({ changes }: { changes: readonly Change[] }) {
  return (
    <ul className="flex flex-col gap-3">
      {changes.map((change) => (
        <li key={change.finding}>
          <Pegs change={change} />
        </li>
      ))}
    </ul>
  );
}

/** One quantity: where it was, where it is, and how sure that is. */
function Pegs({ change }: { change: Change }) {
  const low = Math.min(change.before, change.after) - 2 * change.sigma;
  const high = Math.max(change.before, change.after) + 2 * change.sigma;
  const span = high - low || 1;
  const x = (value: number) => 10 + ((value - low) / span) * (WIDTH - 20);
  const state = change.healthy_after ? "healthy now" : "not healthy";
  return (
    <div className="flex flex-col gap-1 sm:flex-row sm:items-start sm:gap-4">
      <details className="sm:w-72">
        <summary className="min-h-12 cursor-pointer">
          <span className="font-bold">{change.name}</span>
          <span className="block text-sm">
            {unbroken(change.after_text)}; {state}
            {change.clear ? "" : ", no clear change"}
          </span>
        </summary>
        <div className="flex flex-col gap-1 py-2 text-sm">
          <p>Before: {unbroken(change.before_text)}.</p>
          {change.sigma > 0 ? (
            <p>
              Changed by{" "}
              <span className="font-mono">
                {unbroken(
                  `${signed(change.after - change.before)} ± ${change.sigma.toPrecision(2)} ${change.unit}`.trim(),
                )}
              </span>
              .
            </p>
          ) : null}
          <p>{change.reason}</p>
        </div>
      </details>
      <svg
        viewBox={`0 0 ${String(WIDTH)} ${String(ROW)}`}
        className="w-full max-w-xs"
        role="img"
        aria-label={`${change.name}: before ${change.before_text}, after ${change.after_text}`}
      >
        <line x1="10" x2={WIDTH - 10} y1={ROW / 2} y2={ROW / 2} stroke="var(--line)" strokeWidth="2" />
        <line
          x1={x(change.after - change.sigma)}
          x2={x(change.after + change.sigma)}
          y1={ROW / 2}
          y2={ROW / 2}
          stroke="var(--ink)"
          strokeWidth="5"
        />
        <circle
          cx={x(change.before)}
          cy={ROW / 2}
          r="8"
          fill="var(--porcelain)"
          stroke={change.healthy_before ? "var(--seaglass)" : "var(--persimmon)"}
          strokeWidth="3"
        />
        <circle
          cx={x(change.after)}
          cy={ROW / 2}
          r="8"
          fill={change.healthy_after ? "var(--seaglass)" : "var(--persimmon)"}
          stroke="var(--ink)"
          strokeWidth="2"
        />
      </svg>
    </div>
  );
}

function signed(value: number): string {
  return `${value < 0 ? "−" : "+"}${Math.abs(value).toPrecision(2)}`;
}

function hertz(value: number): string {
  return value >= 1000 ? `${(value / 1000).toFixed(1)} kHz` : `${value.toFixed(0)} Hz`;
}
