import { expect, it } from "vitest";

import { taughtBy } from "./taught-by";

it("reads from a version how many jobs taught it", () => {
  expect(taughtBy("2026.11+6b1149d1")).toBe(0);
  expect(taughtBy("2026.11+6b1149d1~63")).toBe(63);
  expect(taughtBy("")).toBe(0);
});
