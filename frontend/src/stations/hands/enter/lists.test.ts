import { describe, expect, it } from "vitest";

import { hourWords, nextPlace, readings, roundTheClock, withReading } from "./lists";

describe("readings in their places", () => {
  it("keeps what was read and knows what is missing", () => {
    const text = withReading(withReading("", 4, 2, "5"), 4, 0, "1.5");
    expect(text).toBe("1.5 - 5 -");
    expect(readings(text, 4)).toEqual(["1.5", "", "5", ""]);
    expect(withReading(withReading(text, 4, 0, ""), 4, 2, "")).toBe("");
  });

  it("goes on to the next that is missing, and round again when none is", () => {
    expect(nextPlace("1 - 5 -", 4, 0)).toBe(1);
    expect(nextPlace("1 2 5 -", 4, 0)).toBe(3);
    expect(nextPlace("1 2 5 4", 4, 3)).toBe(0);
  });

  it("names places as a clock does", () => {
    expect([0, 1, 2, 3].map((k) => hourWords(k, 4))).toEqual(["12 o’clock", "3 o’clock", "6 o’clock", "9 o’clock"]);
    expect(hourWords(1, 8)).toBe("1:30");
    const right = roundTheClock(2, 8);
    expect(right.x).toBeCloseTo(1);
    expect(right.y).toBeCloseTo(0);
  });
});
