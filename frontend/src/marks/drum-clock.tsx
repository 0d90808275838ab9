import type { Schemas } from "../api/client";

const SIZE = 240;
const CENTRE = SIZE / 2;
const RIM = 84;

/** The drum's face as a dial: sound over one turn as a ring, impacts as spokes, the cabinet's feet around. */
export function DrumClock({ profile }: { profile: Schemas["TurnProfileOut"] | null | undefined }) {
  const values = (profile?.profile_db ?? []).map((v) => v ?? 0);
  const hits = profile !== null && profile !== undefined && profile.per_turn > 0;
  const title = profile
    ? hits
      ? `${profile.per_turn.toFixed(0)} ${profile.band} per turn, ${profile.peak_db.toFixed(0)} dB`
      : "Nothing knocks once per turn"
    : "No sound over one turn yet";
  return (
    <figure className="flex flex-col items-center">
      <svg viewBox={`0 0 ${String(SIZE)} ${String(SIZE)}`} className="w-full max-w-60" role="img" aria-label={`Drum clock. ${title}`}>
        {[[14, 14], [SIZE - 14, 14], [SIZE - 14, SIZE - 14], [14, SIZE - 14]].map(([x, y]) => (
          <g key={`${String(x)}-${String(y)}`}>
            <rect x={(x ?? 0) - 10} y={(y ?? 0) - 10} width="20" height="20" rx="4" fill="var(--porcelain)" stroke="var(--ink)" strokeWidth="2" />
            <circle cx={x} cy={y} r="3" fill="var(--ink)" />
          </g>
        ))}
        <circle cx={CENTRE} cy={CENTRE} r={RIM + 16} fill="var(--porcelain)" stroke="var(--ink)" strokeWidth="3" />
        {Array.from({ length: 12 }, (_, i) => (
          <line
            key={i}
            x1={CENTRE + (RIM + 16) * Math.sin((i * Math.PI) / 6)}
            y1={CENTRE - (RIM + 16) * Math.cos((i * Math.PI) / 6)}
            x2={CENTRE + (RIM + 8) * Math.sin((i * Math.PI) / 6)}
            y2={CENTRE - (RIM + 8) * Math.cos((i * Math.PI) / 6)}
            stroke="var(--ink)"
            strokeWidth="2"
          />
        ))}
        <circle cx={CENTRE} cy={CENTRE} r="48" fill="none" stroke="var(--line)" strokeWidth="2" />
        {values.length > 0 ? (
          <path d={ring(values)} fill="none" stroke={hits ? "var(--persimmon)" : "var(--seaglass)"} strokeWidth="2.5" strokeLinejoin="round" />
        ) : null}
        {hits ? <line x1={CENTRE} y1={CENTRE - 40} x2={CENTRE} y2={CENTRE - RIM - 12} stroke="var(--persimmon)" strokeWidth="5" /> : null}
        <text x={CENTRE} y={CENTRE - 2} textAnchor="middle" className="fill-ink font-mono text-lg font-bold">
          {profile ? profile.per_turn.toFixed(0) : "–"}
        </text>
        <text x={CENTRE} y={CENTRE + 16} textAnchor="middle" className="fill-ink-soft text-[11px]">
          hits per turn
        </text>
      </svg>
      <figcaption className="text-center text-sm">{title}</figcaption>
    </figure>
  );
}

function ring(values: readonly number[]): string {
  const top = Math.max(6, ...values.map((v) => Math.abs(v)));
  const points = values.map((value, i) => {
    const angle = (2 * Math.PI * i) / values.length;
    const radius = 66 + (18 * value) / top;
    return `${(CENTRE + radius * Math.sin(angle)).toFixed(1)},${(CENTRE - radius * Math.cos(angle)).toFixed(1)}`;
  });
  return `M${points.join(" L")} Z`;
}
