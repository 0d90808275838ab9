/** How many ended jobs of the shop sharpened the knowledge of that version: it says so after a tilde. */
export function taughtBy(version: string): number {
  const count = Number(/~(\d+)$/.exec(version)?.[1] ?? 0);
  return Number.isFinite(count) ? count : 0;
}
