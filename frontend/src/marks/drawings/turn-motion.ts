import type { Schemas } from "../../api/client";

const WAYS: Record<string, string> = { x: "left and right", y: "front and back", z: "up and down" };

/** How the cabinet moves over one turn, in one sentence: the way it goes most, how far, and how much of that is twice a turn. */
export function motionTitle(motion: Schemas["TurnMotionOut"]): string {
  const [first, second] = motion.orders_mm[motion.axis] ?? [];
  const [, sigma] = motion.orders_mm_sigma[motion.axis] ?? [];
  const way = WAYS[motion.axis] ?? motion.axis;
  const size = `Most ${way}, ±${millimetres(first ?? 0)} mm at ${motion.speed_rpm.toFixed(0)} rpm`;
  if (!first || second === null || second === undefined || second < 3 * (sigma ?? Infinity)) return size;
  const share = (100 * second) / first;
  return share < 1 ? size : `${size}, ${share.toFixed(0)} % of that twice a turn`;
}

function millimetres(value: number): string {
  if (value >= 1) return value.toFixed(1);
  return value >= 0.1 ? value.toFixed(2) : value.toFixed(3);
}
