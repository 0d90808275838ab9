import type { Schemas } from "../../api/client";
import { signedDb, words } from "../../lib/format";
import { cornerTitle, feet, type Foot } from "./corners";
import { motionTitle } from "./turn-motion";

const SIZE = 240;
const CENTRE = SIZE / 2;
const RIM = 84;
const ROOM = 84;

/** The drum's face as a dial: sound and motion over one turn as rings, impacts as spokes, the feet and how they move. */
export function DrumClock({
  profile,
  motion,
  corners,
}: {
  profile: Schemas["TurnProfileOut"] | null | undefined;
  motion?: Schemas["TurnMotionOut"] | null | undefined;
  corners?: Schemas["CornersOut"] | null | undefined;
}) {
  const values = (profile?.profile_db ?? []).map((v) => v ?? 0);
  const hits = profile !== null && profile !== undefined && profile.per_turn > 0;
  const title = profile
    ? hits
      ? `${profile.per_turn.toFixed(0)} ${profile.band} per turn, ${profile.peak_db.toFixed(0)} dB`
      : "Nothing knocks once per turn"
    : "No sound over one turn yet";
  const standing = feet(corners ?? { speed_rpm: [], levels: [] });
  const side = corners ? ROOM : 0;
  const moves = motion ? motionTitle(motion) : null;
  const label = [title, moves, corners ? cornerTitle(corners) : null].filter((part) => part !== null).join(". ");
  const path = (motion?.profile_mm ?? []).map((v) => v ?? 0);
  return (
    <figure className="flex flex-col items-center">
      <svg
        viewBox={`${String(-side)} ${String(-side / 2)} ${String(SIZE + 2 * side)} ${String(SIZE + side)}`}
        className={corners ? "w-full max-w-[30rem]" : "w-full max-w-60"}
        role="img"
        aria-label={`Drum clock. ${label}`}
      >
        {standing.map((foot) => (
          <FootMark key={foot.corner} foot={foot} />
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
        <circle cx={CENTRE} cy={CENTRE} r="43" fill="none" stroke="var(--line)" strokeWidth="2" />
        {values.length > 0 ? (
          <path
            d={ring(values, { radius: 66, swing: 18, least: 6 })}
            fill="none"
            stroke={hits ? "var(--persimmon)" : "var(--seaglass)"}
            strokeWidth="2.5"
            strokeLinejoin="round"
          />
        ) : null}
        {path.length > 0 ? (
          <path
            d={ring(path, { radius: 43, swing: 6, least: 0 })}
            fill="none"
            stroke="var(--ink)"
            strokeWidth="2"
            strokeDasharray="5 3"
          />
        ) : null}
        {hits ? (
          <line
            x1={CENTRE}
            y1={CENTRE - 40}
            x2={CENTRE}
            y2={CENTRE - RIM - 12}
            stroke="var(--persimmon)"
            strokeWidth="5"
          />
        ) : null}
        <text x={CENTRE} y={CENTRE - 2} textAnchor="middle" className="fill-ink font-mono text-lg font-bold">
          {profile ? profile.per_turn.toFixed(0) : "–"}
        </text>
        <text x={CENTRE} y={CENTRE + 16} textAnchor="middle" className="fill-ink-soft text-[11px]">
          hits per turn
        </text>
      </svg>
      <figcaption className="text-center text-sm">
        {title}
        {moves ? (
          <span className="block text-ink-soft">
            {moves}. Outer ring: sound; dashed: motion; each begins at its own peak.
          </span>
        ) : null}
        {corners ? (
          <span className="block">
            {cornerTitle(corners)}, at {corners.speed_rpm.map((rpm) => rpm.toFixed(0)).join(" to ")} rpm. Seen from
            above, front at the bottom.
          </span>
        ) : null}
      </figcaption>
    </figure>
  );
}

/** A foot in plan; its arrow is how far that corner goes up and down against the one that goes furthest. */
function FootMark({ foot }: { foot: Foot }) {
  const x = CENTRE + foot.x * (CENTRE - 14);
  const y = CENTRE + foot.y * (CENTRE - 14);
  const colour = foot.ahead ? "var(--persimmon)" : "var(--ink)";
  const outside = x + foot.x * 20;
  return (
    <g>
      <rect
        x={x - 10}
        y={y - 10}
        width="20"
        height="20"
        rx="4"
        fill="var(--porcelain)"
        stroke={colour}
        strokeWidth="2"
      />
      <circle cx={x} cy={y} r="3" fill={colour} />
      {foot.level_db !== null ? (
        <>
          <path
            d={`M${String(outside)},${String(y - foot.reach)} V${String(y + foot.reach)} m-4,-4 l4,4 l4,-4 M${String(outside - 4)},${String(y - foot.reach + 4)} l4,-4 l4,4`}
            fill="none"
            stroke={colour}
            strokeWidth="2.5"
          />
          <text
            x={outside + foot.x * 8}
            y={y - 3}
            textAnchor={foot.x < 0 ? "end" : "start"}
            className="fill-ink font-mono text-[16px]"
          >
            {signedDb(foot.level_db)}
          </text>
          <text
            x={outside + foot.x * 8}
            y={y + 11}
            textAnchor={foot.x < 0 ? "end" : "start"}
            className="fill-ink-soft text-[14px]"
          >
            {words(foot.corner)}
          </text>
        </>
      ) : null}
    </g>
  );
}

/** Values round the dial, the largest one a full swing from the middle radius. */
function ring(
  values: readonly number[],
  { radius, swing, least }: { radius: number; swing: number; least: number },
): string {
  const top = Math.max(least, ...values.map((v) => Math.abs(v))) || 1;
  const points = values.map((value, i) => {
    const angle = (2 * Math.PI * i) / values.length;
    const reach = radius + (swing * value) / top;
    return `${(CENTRE + reach * Math.sin(angle)).toFixed(1)},${(CENTRE - reach * Math.cos(angle)).toFixed(1)}`;
  });
  return `M${points.join(" L")} Z`;
}
