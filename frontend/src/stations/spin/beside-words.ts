import type { Schemas } from "../../api/client";

export function againstWords(others: number): string {
  return others === 1 ? "one other spin" : `${String(others)} other spins`;
}

/** How much more or less the cabinet moves once per turn, as a factor with the range of its error. */
export function shakeWords(shake: Schemas["DifferenceOut"]): string {
  if (!shake.is_clear)
    return `It shakes alike once per turn (${factor(shake.db - shake.sigma_db)} to ${factor(shake.db + shake.sigma_db)} times).`;
  const more = shake.db > 0;
  const size = Math.abs(shake.db);
  const range = `${factor(size - shake.sigma_db)} to ${factor(size + shake.sigma_db)}`;
  return more
    ? `It shakes ${factor(size)} times as much once per turn (${range}).`
    : `It shakes ${factor(size)} times less once per turn (${range}).`;
}

function factor(db: number): string {
  const value = 10 ** (db / 20);
  return value < 10 ? value.toFixed(1) : value.toFixed(0);
}
