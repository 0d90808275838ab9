import type { Evidence, Suspect } from "../../api/client";
import { percent } from "../../lib/format";

export interface Pull {
  key: string;
  label: string;
  decibans: number;
  evidence: Evidence | null;
  startDb: number;
  endDb: number;
  /** The small ones that were put together. */
  parts?: readonly Pull[];
}

export interface Rope {
  suspect: Suspect;
  pulls: Pull[];
  knotDb: number;
}

const SMALLEST_DB = 0.7;
/** A stage less likely than this is not worth a word. */
const LEAST_STAGE = 0.05;

/** How far a fault has gone, if it is there: the likeliest stage first; nothing for what has no stages. */
export function stagesSaid(stages: Suspect["stages"]): string {
  return Object.entries(stages ?? {})
    .filter(([, chance]) => chance >= LEAST_STAGE)
    .sort(([, a], [, b]) => b - a)
    .map(([stage, chance]) => `${stage} ${percent(chance)}`)
    .join(", ");
}

/** Narrower than this no thumb hits it. */
export const LEAST_PX = 26;

/**
 * Lay a suspect's evidence along its rope: what pulls for it to the right of even odds, what clears it to the left,
 * how common it is among visits as one pull of its own. The knot stands where they all sum to.
 */
export function layRope(suspect: Suspect): Rope {
  const shown = suspect.evidence.filter((e) => Math.abs(e.weight_db) >= SMALLEST_DB);
  const knotDb = suspect.posterior_db;
  const sum = shown.reduce((total, e) => total + e.weight_db, suspect.prior_db);
  const rest = knotDb - sum;
  const parts: { key: string; label: string; decibans: number; evidence: Evidence | null }[] = [
    { key: "prior", label: "how common", decibans: suspect.prior_db, evidence: null },
    ...shown.map((e) => ({
      key: e.code,
      label: e.code.replace(/^symptom_/, "").replaceAll("_", " "),
      decibans: e.weight_db,
      evidence: e,
    })),
  ];
  if (Math.abs(rest) >= SMALLEST_DB)
    parts.push({ key: "rest", label: "small findings", decibans: rest, evidence: null });
  const pulls = laid(parts.map((part) => ({ ...part, startDb: 0, endDb: 0 })));
  return { suspect, pulls, knotDb };
}

/**
 * The rope with all pulls that would be too narrow to be hit put together, on either side, into one that says so. One
 * that is still too narrow is left out of the drawing: the knot stands where it did.
 */
export function hittable(rope: Rope, pxPerDb: number): Rope {
  const isWide = (pull: Pull) => Math.abs(pull.decibans) * pxPerDb >= LEAST_PX;
  const wide = rope.pulls.filter((pull) => isWide(pull) && pull.key !== "rest");
  const narrow = rope.pulls.filter((pull) => !wide.includes(pull));
  const sums = [1, -1].map((side) =>
    narrow.filter((pull) => Math.sign(pull.decibans) === side).reduce((sum, pull) => sum + pull.decibans, 0),
  );
  const small = sums.map((decibans, i) => ({
    key: i === 0 ? "small-for" : "small-against",
    label: "small findings",
    decibans,
    evidence: null,
    startDb: 0,
    endDb: 0,
    parts: narrow.filter((pull) => Math.sign(pull.decibans) === (i === 0 ? 1 : -1)),
  }));
  return { ...rope, pulls: laid([...wide, ...small.filter(isWide)]) };
}

function laid(pulls: readonly Pull[]): Pull[] {
  let right = 0;
  let left = 0;
  return pulls.map((pull) => {
    if (pull.decibans >= 0) {
      right += pull.decibans;
      return { ...pull, startDb: right - pull.decibans, endDb: right };
    }
    left += pull.decibans;
    return { ...pull, startDb: left - pull.decibans, endDb: left };
  });
}

/** The range of decibans that holds all ropes, a little wider than the longest. */
export function boardRange(ropes: readonly Rope[]): [number, number] {
  let low = -10;
  let high = 10;
  for (const rope of ropes) {
    low = Math.min(low, rope.knotDb);
    high = Math.max(high, rope.knotDb);
    for (const pull of rope.pulls) {
      low = Math.min(low, pull.endDb);
      high = Math.max(high, pull.endDb);
    }
  }
  return [Math.max(low - 2, -60), Math.min(high + 2, 60)];
}
