import { expect, test } from "vitest";

import { apart, linesOf } from "./over-the-years";

const level = (speed_rpm: number, bright_db: number | null, shake_mm_s: number | null) => ({
  speed_rpm,
  bright_db,
  shake_mm_s,
});
const spin = (job: string, levels: ReturnType<typeof level>[]) => ({
  job,
  at: "2024-05-06T08:00:00Z",
  levels,
});

test("a line holds what was recorded, and a spin without it is left out", () => {
  const heard = spin("heard", [level(60, -50, null), level(120, -44, null), level(240, null, 3)]);
  const felt = spin("felt", [level(60, null, 1), level(120, null, 2)]);
  expect(linesOf([heard, felt], "bright_db")).toEqual([
    {
      job: "heard",
      when: "2024-05",
      points: [
        { rpm: 60, value: -50 },
        { rpm: 120, value: -44 },
      ],
    },
  ]);
  // One point is no line.
  expect(linesOf([heard, felt], "shake_mm_s").map((line) => line.job)).toEqual(["felt"]);
});

test("labels keep their order and lie on none", () => {
  expect(apart([50, 48, 10], 14)).toEqual([62, 48, 10]);
  expect(apart([10, 40], 14)).toEqual([10, 40]);
});
