import type { Money, Option } from "../../api/client";
import { inHundred } from "../../lib/format";
import { money, moneyRange } from "../../lib/money";

const PIECES = [
  { kinds: ["part", "consumables", "machine"], name: "parts", fill: "var(--ink)" },
  { kinds: ["labour", "helper"], name: "work", fill: "url(#work)" },
  { kinds: ["travel", "unstack", "delivery", "removal", "tax"], name: "way and the rest", fill: "url(#rest)" },
] as const;
// Under which a machine is sold as one.
const GRADES_SOLD: readonly string[] = ["A", "B", "C"];
const LEFT = 2;
const WIDTH = 596;
const YEAR = 34;

/** Hatches that the strips share: told apart without colour. */
export function StripHatches() {
  return (
    <svg width="0" height="0" aria-hidden="true" className="absolute">
      <defs>
        <pattern id="work" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="6" height="6" fill="var(--porcelain)" />
          <rect width="3" height="6" fill="var(--ink)" />
        </pattern>
        <pattern id="rest" width="6" height="6" patternUnits="userSpaceOnUse">
          <rect width="6" height="6" fill="var(--porcelain)" />
          <circle cx="3" cy="3" r="1.4" fill="var(--ink)" />
        </pattern>
      </defs>
    </svg>
  );
}

/** One option as a strip of money with the years that it buys as notches below it. */
export function OptionStrip({ option, most }: { option: Option; most: number }) {
  const scale = WIDTH / Math.max(1, most);
  let at = LEFT;
  const pieces = PIECES.map((piece) => {
    const lines = option.lines.filter((line) => piece.kinds.some((kind) => kind === line.kind));
    const low = lines.reduce((sum, line) => sum + line.amount.low.minor, 0);
    const x = at;
    at += low * scale;
    return { ...piece, x, width: low * scale };
  });
  const open = (option.total.high.minor - option.total.low.minor) * scale;
  const years = option.brings ? 0 : (option.years.low + option.years.high) / 2;
  const title = [moneyRange(option.total, true), ...buysOf(option)].join(", ");
  return (
    <svg viewBox={option.brings ? "0 0 600 30" : "0 0 600 54"} className="w-full" role="img" aria-label={title}>
      {pieces.map((piece) => (
        <rect
          key={piece.name}
          x={piece.x}
          y="4"
          width={Math.max(0, piece.width)}
          height="22"
          fill={piece.fill}
          stroke="var(--ink)"
          strokeWidth="2"
        />
      ))}
      {open > 1 ? (
        <rect
          x={at}
          y="4"
          width={open}
          height="22"
          fill="none"
          stroke="var(--ink)"
          strokeWidth="2"
          strokeDasharray="5 5"
        />
      ) : null}
      {Array.from({ length: Math.min(16, Math.ceil(years)) }, (_, i) => {
        const share = Math.min(1, years - i);
        return (
          <rect
            key={i}
            x={LEFT + i * YEAR}
            y="34"
            width={(YEAR - 6) * share}
            height="12"
            fill="var(--seaglass)"
            stroke="var(--ink)"
            strokeWidth="1.5"
          />
        );
      })}
    </svg>
  );
}

export function yearsOf(option: Option): string {
  const { low, high } = option.years;
  if (high <= 0) return "no further years";
  if (high < 2) return `${(low * 12).toFixed(0)} to ${(high * 12).toFixed(0)} months`;
  return `${low.toFixed(0)} to ${high.toFixed(0)} years`;
}

/** What is left of a machine without a customer, or what it costs in the end. */
export function leaving(leaves: Money): string {
  const amount = money({ ...leaves, minor: Math.abs(leaves.minor) }, true);
  return leaves.minor < 0 ? `costs ${amount} in the end` : `leaves ${amount}`;
}

/** What an option buys in years; nothing for a machine that is sold on. */
export function buysOf(option: Option): string[] {
  return option.brings ? [] : [`buys ${yearsOf(option)}`];
}

/** What an option costs besides its sum, in a line. */
export function factsOf(option: Option): string[] {
  const facts: string[] = [];
  if (option.brings && option.brings.minor > 0) {
    const grade = GRADES_SOLD.includes(option.grade) ? ` as grade ${option.grade}` : "";
    facts.push(`brings ${money(option.brings, true)}${grade}`);
  }
  if (option.leaves) facts.push(leaving(option.leaves));
  if (option.a_year) facts.push(`${money(option.a_year, true)} a year, all counted`);
  if (option.minutes.high > 0) facts.push(`${hours(option.minutes)} of work`);
  if (option.days_without > 0) facts.push(`${String(option.days_without)} days without it`);
  if (option.visits > 1) facts.push("two visits");
  if (option.callback > 0) facts.push(`called back: ${inHundred(option.callback)}`);
  if (option.share != null) facts.push(`${(100 * option.share).toFixed(0)} % of a new one`);
  return facts;
}

export function hours({ low, high }: { low: number; high: number }): string {
  if (high < 90 && low.toFixed(0) === high.toFixed(0)) return `${low.toFixed(0)} min`;
  if (high < 90) return `${low.toFixed(0)} to ${high.toFixed(0)} min`;
  return `${(low / 60).toFixed(1)} to ${(high / 60).toFixed(1)} h`;
}
