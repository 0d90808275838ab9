import { describe, expect, it } from "vitest";

import { inHundred, percent, saidBy, unbroken } from "./format";

describe("words and numbers", () => {
  it("never tears a number from its sign", () => {
    expect(percent(0.97)).toBe("97\u00a0%");
    expect(unbroken("Spider: 97 %. Peak of 18 dB at 214 rpm.")).toBe(
      "Spider: 97\u00a0%. Peak of 18\u00a0dB at 214\u00a0rpm.",
    );
    expect([inHundred(0.004), inHundred(0.1), inHundred(0.999)]).toEqual([
      "under 1 in 100",
      "10 in 100",
      "over 99 in 100",
    ]);
    expect(unbroken("0.01 ± 0.01 s")).toBe("0.01\u00a0±\u00a00.01\u00a0s");
    expect(unbroken("5 of 12 checks")).toBe("5 of 12 checks");
  });
  it("says values in one line", () => {
    expect(saidBy({ leaks_at: "none", dry_min: { hose_joints: 3, tub: 5 } })).toBe("none, hose joints 3 · tub 5");
    expect(saidBy({ gap_mm: [0, 5], slips: true, detached: [] })).toBe("0 · 5, yes, none");
  });
});
