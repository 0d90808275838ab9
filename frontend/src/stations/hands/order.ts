import type { CheckSpec, NextCheck } from "../../api/client";

/** How far a machine is opened, one after the other. */
export const ACCESS = ["outside", "lid", "panel", "meter", "part"] as const;
export type Access = (typeof ACCESS)[number];

export const ACCESS_NAMES: Record<Access, string> = {
  outside: "Closed",
  lid: "Lid or door open",
  panel: "Panel off",
  meter: "Panel off, meter in hand",
  part: "A part unbolted",
};

/**
 * Checks of the layout as they are worth making from how the machine stands: what can be done now first, by what it
 * tells in a minute; then what needs more opened.
 */
export function inOrder(
  checks: readonly CheckSpec[],
  next: readonly NextCheck[],
  now: Access,
): { access: Access; checks: CheckSpec[] }[] {
  const worth = (check: CheckSpec) => {
    const found = next.find((n) => n.check === check.code);
    return found ? found.gain_bits / Math.max(found.minutes, 0.5) : 0;
  };
  const level = (check: CheckSpec) => ACCESS.indexOf(check.access as Access);
  const here = ACCESS.indexOf(now);
  const groups = ACCESS.map((access, k) => ({
    access,
    checks: checks.filter((c) => (k === here ? level(c) <= here : k > here && level(c) === k)),
  }));
  return groups
    .filter((g) => g.checks.length > 0)
    .map((g) => ({ ...g, checks: [...g.checks].sort((a, b) => worth(b) - worth(a) || a.minutes - b.minutes) }));
}
