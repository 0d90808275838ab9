import type { Evidence, Suspect } from "../api/client";

export interface Pull {
  key: string;
  label: string;
  decibans: number;
  evidence: Evidence | null;
  startDb: number;
  endDb: number;
}

export interface Rope {
  suspect: Suspect;
  pulls: Pull[];
  knotDb: number;
}

const SMALLEST_DB = 0.7;

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
  let right = 0;
  let left = 0;
  const pulls: Pull[] = [];
  for (const part of parts) {
    if (part.decibans >= 0) {
      pulls.push({ ...part, startDb: right, endDb: right + part.decibans });
      right += part.decibans;
    } else {
      pulls.push({ ...part, startDb: left, endDb: left + part.decibans });
      left += part.decibans;
    }
  }
  return { suspect, pulls, knotDb };
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
