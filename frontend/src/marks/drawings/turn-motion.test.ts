import { describe, expect, it } from "vitest";

import type { Schemas } from "../../api/client";
import { motionTitle } from "./turn-motion";

const MOTION: Schemas["TurnMotionOut"] = {
  speed_rpm: 1203.4,
  axis: "x",
  profile_mm: [],
  orders_mm: { x: [0.214, 0.031, 0.002], z: [0.1, 0, 0] },
  orders_mm_sigma: { x: [0.002, 0.001, 0.001], z: [0.002, 0.001, 0.001] },
};

describe("the motion over one turn in words", () => {
  it("names the way, the size and what comes twice a turn", () => {
    expect(motionTitle(MOTION)).toBe("Most left and right, ±0.21 mm at 1203 rpm, 14 % of that twice a turn");
  });
  it("says nothing of what is not clear", () => {
    const faint = { ...MOTION, orders_mm_sigma: { x: [0.002, 0.02, 0.001] } };
    expect(motionTitle(faint)).toBe("Most left and right, ±0.21 mm at 1203 rpm");
    expect(motionTitle({ ...MOTION, orders_mm: { x: [0, 0.1, 0] } })).toBe(
      "Most left and right, ±0.000 mm at 1203 rpm",
    );
  });
});
