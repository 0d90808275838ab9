import { describe, expect, it } from "vitest";

import type { Curves } from "../../api/client";
import { cursorReading, heldRpm, phaseBands, ribbonPieces } from "./ribbon";

const curves = {
  t_s: [0, 1, 2, 3, 4],
  rpm: [null, 100, 200, null, 300],
  sigma_rpm: [null, 0.5, 2, null, 1],
  level_db: [-60, -40, -30, -30, -20],
  roughness: [0, 0, 0.5, 0.9, 0.9],
  phases: [
    { name: "rest", start_s: 0, end_s: 1 },
    { name: "ramp", start_s: 1, end_s: 4 },
  ],
} as unknown as Curves;

describe("speed ribbon", () => {
  it("draws known stretches only, never a line across a gap", () => {
    const pieces = ribbonPieces(curves);
    expect(pieces).toHaveLength(1);
    expect(pieces[0]?.points.map((p) => p.rpm)).toEqual([100, 200]);
  });

  it("states the speed that was held, not one wild moment", () => {
    const rpm = [null, ...Array.from({ length: 99 }, () => 1000), 1400];
    expect(heldRpm({ ...curves, rpm })).toBe(1000);
    expect(heldRpm({ ...curves, rpm: [null] })).toBe(0);
  });

  it("hatches rough moments", () => {
    expect(ribbonPieces(curves)[0]?.rough.map((r) => r.t_s)).toEqual([2]);
  });

  it("writes a phase's name only where it fits", () => {
    const bands = phaseBands(curves, (t) => t * 20);
    expect(bands.map((b) => b.fits)).toEqual([false, true]);
  });

  it("reads the nearest moment with its uncertainty, and says when the speed is not known", () => {
    expect(cursorReading(curves, 1.9)).toContain("200 rpm ± 2");
    expect(cursorReading(curves, 3.1)).toContain("speed not known");
  });
});
