import { expect, test } from "vitest";

import { againstWords, shakeWords } from "./beside-words";

test("a clear difference in motion is a factor with its range", () => {
  expect(shakeWords({ db: 12, sigma_db: 2, above: 1, is_clear: true })).toBe(
    "It shakes 4.0 times as much once per turn (3.2 to 5.0).",
  );
  expect(shakeWords({ db: -6, sigma_db: 1, above: 0, is_clear: true })).toBe(
    "It shakes 2.0 times less once per turn (1.8 to 2.2).",
  );
});

test("what is within the error is said to be alike", () => {
  expect(shakeWords({ db: 1, sigma_db: 1.1, above: 0, is_clear: false })).toBe(
    "It shakes alike once per turn (1.0 to 1.3 times).",
  );
});

test("one other and several are told apart", () => {
  expect(againstWords(1)).toBe("one other spin");
  expect(againstWords(4)).toBe("4 other spins");
});
