import { expect, test } from "vitest";

import { loudestStretch } from "./loudest-stretch";

function bands(...db: number[]) {
  return db.map((value, i) => ({
    centre_hz: 100 * 2 ** i,
    db: value,
    sigma_db: 2,
    above: value > 4 ? 1 : 0,
    is_clear: Math.abs(value) > 4,
  }));
}

test("the stretch that stands out most is named with its ends", () => {
  expect(loudestStretch(bands(5, 0, 0, 6, 9, 7, 0, 8))).toBe("Louder from 800 Hz to 3.2 kHz, by up to 9 dB");
});

test("one band alone is named by its middle", () => {
  expect(loudestStretch(bands(0, 5, 0))).toBe("Louder around 200 Hz, by up to 5 dB");
});

test("quieter or unclear bands are no finding", () => {
  expect(loudestStretch(bands(3, -9, 2))).toBe("No band is clearly louder");
  expect(loudestStretch([])).toBe("No band is clearly louder");
});
