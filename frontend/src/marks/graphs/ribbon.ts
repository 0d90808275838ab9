import type { Curves } from "../../api/client";

export interface RibbonPiece {
  start: number;
  points: { t_s: number; rpm: number }[];
  rough: { t_s: number; rpm: number; roughness: number }[];
}

/** Stretches of known speed, each a piece of ribbon, with the rough moments on it. */
export function ribbonPieces(curves: Curves): RibbonPiece[] {
  const pieces: RibbonPiece[] = [];
  let open: RibbonPiece | null = null;
  (curves.t_s ?? []).forEach((t_s, i) => {
    const rpm = curves.rpm?.[i] ?? null;
    if (t_s === null || rpm === null) {
      open = null;
      return;
    }
    if (open === null) {
      open = { start: t_s, points: [], rough: [] };
      pieces.push(open);
    }
    open.points.push({ t_s, rpm });
    const roughness = curves.roughness?.[i] ?? 0;
    if (roughness > 0.08) open.rough.push({ t_s, rpm, roughness });
  });
  return pieces.filter((piece) => piece.points.length > 1);
}

export interface PhaseBand {
  key: string;
  name: string;
  x0: number;
  x1: number;
  fits: boolean;
}

/** Phases as bands along the axis; a name is written only where there is room for it. */
export function phaseBands(curves: Curves, x: (t_s: number) => number): PhaseBand[] {
  return (curves.phases ?? []).map((phase) => {
    const x0 = x(phase.start_s);
    const x1 = x(phase.end_s);
    const label = phase.name === "unknown" ? "speed not known" : phase.name;
    return {
      key: `${phase.name}-${String(phase.start_s)}`,
      name: phase.name,
      x0,
      x1,
      fits: x1 - x0 > label.length * 6.2,
    };
  });
}

/** What the cursor reads, in one line. */
export function cursorReading(curves: Curves, t_s: number): string {
  const times = curves.t_s ?? [];
  let best = 0;
  let gap = Infinity;
  times.forEach((t, i) => {
    const distance = Math.abs((t ?? Infinity) - t_s);
    if (distance < gap) {
      gap = distance;
      best = i;
    }
  });
  const rpm = curves.rpm?.[best] ?? null;
  const sigma = curves.sigma_rpm?.[best] ?? null;
  const level = curves.level_db?.[best] ?? null;
  const speed =
    rpm === null
      ? "speed not known"
      : `${rpm.toFixed(0)} rpm${sigma === null ? "" : ` ± ${sigma < 0.95 ? sigma.toFixed(1) : sigma.toFixed(0)}`}`;
  return `${t_s.toFixed(1)} s · ${speed}${level === null ? "" : ` · ${level.toFixed(0)} dB of full scale`}`;
}

/** The fastest speed that was held: as the figures state it, three in a hundred moments are faster. */
export function heldRpm(curves: Curves): number {
  const known = (curves.rpm ?? []).filter((rpm) => rpm !== null).sort((a, b) => a - b);
  const place = 0.97 * (known.length - 1);
  const below = known[Math.floor(place)] ?? 0;
  return below + (place - Math.floor(place)) * ((known[Math.ceil(place)] ?? below) - below);
}
