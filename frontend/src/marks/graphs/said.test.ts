import { describe, expect, it } from "vitest";

import { isTorn, saidTitle } from "./said";

const bin = (said: number, hits: number, of: number, low: number, high: number) => ({
  low: 0.8,
  high: 0.9,
  said,
  right: { hits, of, share: of ? hits / of : null, low, high },
});

describe("what was said against what was right", () => {
  it("is torn only where the counts leave no room", () => {
    expect(isTorn(bin(0.85, 4, 6, 0.35, 0.89))).toBe(false);
    expect(isTorn(bin(0.95, 4, 6, 0.35, 0.89))).toBe(true);
    expect(isTorn(bin(0.95, 0, 0, 0, 1))).toBe(false);
  });
  it("says in a line which way it is off", () => {
    expect(saidTitle([])).toBe("Nothing to hold the calls against yet");
    expect(saidTitle([bin(0.85, 17, 20, 0.69, 0.94)])).toBe(
      "Said 85 % on average, right 85 % of 20: as often as it says",
    );
    expect(saidTitle([bin(0.95, 10, 20, 0.32, 0.68)])).toContain("surer than it may be");
    expect(saidTitle([bin(0.5, 19, 20, 0.8, 0.99)])).toContain("better than it says");
  });
});
