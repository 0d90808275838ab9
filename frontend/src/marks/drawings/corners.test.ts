import { describe, expect, it } from "vitest";

import { cornerAhead, cornerTitle, feet, leads } from "./corners";

const at = (...levels: [string, number, number][]) => ({
  speed_rpm: [200, 700],
  levels: levels.map(([corner, level_db, sigma_db]) => ({ corner, level_db, sigma_db })),
});

const uneven = at(["rear_right", 5, 1], ["front_left", -1, 1], ["front_right", -2, 1], ["rear_left", -2, 1]);
const even = at(["rear_right", 0.6, 1], ["front_left", 0.1, 1], ["front_right", -0.3, 1], ["rear_left", -0.4, 1]);

describe("corner comparison", () => {
  it("names the corner that leads, by how much and how sure", () => {
    expect(cornerAhead(uneven)?.db).toBeCloseTo(6);
    expect(cornerTitle(uneven)).toBe("The rear right corner goes up and down 6.0 ± 1.4 dB more than the next");
  });

  it("does not call chance a leader", () => {
    expect(leads(even)).toBe(false);
    expect(cornerTitle(even)).toContain("No corner stands out");
    expect(feet(even).some((foot) => foot.ahead)).toBe(false);
  });

  it("draws amplitudes: six decibels are half the length", () => {
    const drawn = feet(uneven);
    const of = (corner: string) => drawn.find((foot) => foot.corner === corner)?.reach ?? 0;
    expect(of("front_left") / of("rear_right")).toBeCloseTo(0.5, 1);
    expect(drawn.filter((foot) => foot.ahead).map((foot) => foot.corner)).toEqual(["rear_right"]);
  });

  it("stands the feet in plan, front at the bottom, and leaves unmeasured ones still", () => {
    const two = feet(at(["front_left", 1, 1], ["rear_right", -1, 1]));
    expect(two.find((foot) => foot.corner === "front_left")).toMatchObject({ x: -1, y: 1 });
    expect(two.filter((foot) => foot.level_db === null).map((foot) => foot.reach)).toEqual([0, 0]);
  });

  it("compares nothing with one corner", () => {
    expect(cornerAhead(at(["front_left", 0, 1]))).toBeNull();
    expect(cornerTitle(at(["front_left", 0, 1]))).toBe("One corner alone cannot be compared");
  });
});
