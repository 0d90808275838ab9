import type { Schemas } from "../../api/client";
import { words } from "../../lib/format";

export interface Foot {
  corner: string;
  /** Where it stands on the dial's square: -1 left or rear, 1 right or front. */
  x: -1 | 1;
  y: -1 | 1;
  level_db: number | null;
  /** Half of the arrow's length on the dial. */
  reach: number;
  ahead: boolean;
}

const PLACES = [
  ["rear_left", -1, -1],
  ["rear_right", 1, -1],
  ["front_right", 1, 1],
  ["front_left", -1, 1],
] as const;
const LONGEST_REACH = 22;
const SHORTEST_REACH = 5;

/** How far the corner that moves most is ahead of the next, with its error; null with fewer than two. */
export function cornerAhead(corners: Schemas["CornersOut"]): { corner: string; db: number; sigma: number } | null {
  const [most, next] = corners.levels;
  if (!most || !next) return null;
  return { corner: most.corner, db: most.level_db - next.level_db, sigma: Math.hypot(most.sigma_db, next.sigma_db) };
}

/** A lead of less than twice its error may be chance. */
export function leads(corners: Schemas["CornersOut"]): boolean {
  const ahead = cornerAhead(corners);
  return ahead !== null && ahead.db > 2 * ahead.sigma;
}

export function cornerTitle(corners: Schemas["CornersOut"]): string {
  const ahead = cornerAhead(corners);
  if (ahead === null) return "One corner alone cannot be compared";
  const amount = `${ahead.db.toFixed(1)} ± ${ahead.sigma.toFixed(1)} dB`;
  return leads(corners)
    ? `The ${words(ahead.corner)} corner goes up and down ${amount} more than the next`
    : `No corner stands out: the first is ${amount} ahead of the next`;
}

/** The four feet in plan, front at the bottom; an arrow's length goes with the amplitude. */
export function feet(corners: Schemas["CornersOut"]): Foot[] {
  const loudest = Math.max(...corners.levels.map((level) => level.level_db));
  const leader = leads(corners) ? corners.levels[0]?.corner : undefined;
  return PLACES.map(([corner, x, y]) => {
    const level = corners.levels.find((l) => l.corner === corner);
    const reach = level ? Math.max(SHORTEST_REACH, LONGEST_REACH * 10 ** ((level.level_db - loudest) / 20)) : 0;
    return { corner, x, y, level_db: level?.level_db ?? null, reach, ahead: corner === leader };
  });
}
