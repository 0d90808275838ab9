import { describe, expect, it } from "vitest";

import { spreadWords } from "./spread";

const pushed = (corner: string, swings: number) => ({
  check: "bounce",
  values: { corner, swings },
  entry: corner,
  before: [],
});

describe("corners that were pushed", () => {
  it("are compared once there are two, without the centre", () => {
    expect(spreadWords([])).toBeNull();
    expect(spreadWords([pushed("front_left", 2), pushed("centre", 5)])).toBeNull();
    expect(spreadWords([pushed("front_left", 2), pushed("rear_left", 4.5)])).toBe(
      "The corners differ by 2.5 swings: rear left settles last.",
    );
    expect(spreadWords([pushed("front_left", 2), pushed("rear_left", 2)])).toBe("All 2 corners settle alike.");
  });
});
