import type { Judged, Schemas } from "../../api/client";
import { percent, unbroken } from "../../lib/format";

type VerdictData = Schemas["Verdict"];

/** What the check says by itself: in words first, then against its limits, then how usual that is. */
export function Verdict({ judged }: { judged: Judged }) {
  return (
    <section aria-label="What it says" aria-live="polite" className="flex flex-col gap-3">
      {judged.verdicts.map((verdict) => (
        <One key={verdict.finding} verdict={verdict} />
      ))}
      {judged.then ? <p className="bg-marigold px-3 py-2 font-bold text-on-marigold">{judged.then}</p> : null}
    </section>
  );
}

function One({ verdict }: { verdict: VerdictData }) {
  const speaks = verdict.speaks_for.length > 0;
  const edge = speaks ? "border-persimmon" : verdict.clears.length > 0 ? "border-seaglass" : "border-line";
  return (
    <div className={`border-l-8 ${edge} pl-4`}>
      <p className="text-xl font-bold">
        {unbroken(capital(verdict.text))}: {verdict.level.replaceAll("_", " ")}.
      </p>
      {verdict.says ? <p className="max-w-prose">{verdict.says}</p> : null}
      {verdict.value !== null && verdict.limits.length > 0 ? <Scale verdict={verdict} /> : null}
      <p className="max-w-prose text-ink-soft">
        Of machines without such a fault, {percent(verdict.calm)} read like this
        {verdict.speaks_for.map((m) => `; with “${m.name}”, ${percent(m.chance)}`).join("")}
        {speaks ? "" : verdict.clears.map((m) => `; with “${m.name}” only ${percent(m.chance)}`).join("")}.{" "}
        {verdict.reason}
      </p>
    </div>
  );
}

/** The reading with its standard error on a line with the limits. */
function Scale({ verdict }: { verdict: VerdictData }) {
  const value = verdict.value ?? 0;
  const sigma = verdict.sigma ?? 0;
  const top = 1.25 * Math.max(value + sigma, ...verdict.limits);
  const x = (v: number) => 10 + (Math.min(Math.max(v, 0), top) / top) * 280;
  const limits = verdict.limits.map((l) => `${String(l)} ${verdict.unit}`).join(" and ");
  const label = `${value.toPrecision(3)} ± ${sigma.toPrecision(2)} ${verdict.unit}; limits at ${limits}.`;
  return (
    <svg viewBox="0 0 300 54" className="w-full max-w-md" role="img" aria-label={label}>
      <line x1="10" y1="24" x2="290" y2="24" stroke="var(--ink)" strokeWidth="2" />
      {verdict.limits.map((limit) => (
        <g key={limit}>
          <line x1={x(limit)} y1="12" x2={x(limit)} y2="36" stroke="var(--ink)" strokeWidth="2" strokeDasharray="3 3" />
          <text x={x(limit)} y="50" textAnchor="middle" className="fill-ink-soft font-mono text-[12px]">
            {limit}
          </text>
        </g>
      ))}
      <line x1={x(value - sigma)} y1="24" x2={x(value + sigma)} y2="24" stroke="var(--persimmon)" strokeWidth="8" />
      <circle cx={x(value)} cy="24" r="7" fill="var(--persimmon)" stroke="var(--porcelain)" strokeWidth="2" />
    </svg>
  );
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

/** What a reading will be held against, before there is one. */
export function Limits({ scale, limits }: { scale: Schemas["ScaleOut"]; limits: readonly number[] }) {
  const top = 1.35 * Math.max(...limits);
  const x = (v: number) => 10 + (v / top) * 280;
  const sorted = [...limits].sort((a, b) => a - b);
  const rising = sorted[0] === limits[0];
  const levels = rising ? scale.levels : [...scale.levels].reverse();
  const ends = [0, ...sorted, top];
  const said = levels.map((level, k) => {
    const from = sorted[k - 1];
    const to = sorted[k];
    const span =
      from === undefined ? `to ${String(to)}` : to === undefined ? `from ${String(from)}` : `to ${String(to)}`;
    return `${level} ${span} ${scale.unit}`;
  });
  return (
    <figure className="w-full max-w-md">
      <figcaption className="text-sm text-ink-soft">
        {scale.name}, {scale.unit}: {said.join("; ")}
      </figcaption>
      <svg viewBox="0 0 300 34" className="w-full" aria-hidden="true">
        {levels.map((level, k) => (
          <rect
            key={level}
            x={x(ends[k] ?? 0)}
            y="4"
            width={x(ends[k + 1] ?? top) - x(ends[k] ?? 0)}
            height="12"
            fill="var(--porcelain)"
            stroke="var(--ink)"
            strokeWidth="1.5"
          />
        ))}
        {sorted.map((limit) => (
          <text key={limit} x={x(limit)} y="30" textAnchor="middle" className="fill-ink-soft font-mono text-[12px]">
            {limit}
          </text>
        ))}
      </svg>
    </figure>
  );
}
