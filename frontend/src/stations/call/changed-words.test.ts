import { describe, expect, it } from "vitest";

import type { Suspect } from "../../api/client";
import { changedWords } from "./changed-words";

function suspects(...said: [string, number][]): Suspect[] {
  return said.map(([fault, probability]) => ({ fault, short: fault, probability })) as Suspect[];
}

describe("a call made again", () => {
  it("says what it thought first, then and now", () => {
    const now = suspects(["Belt", 0.7], ["Motor", 0.2]);
    expect(changedWords(suspects(["Belt", 0.81], ["Motor", 0.1]), now)).toMatch(/^: belt 81.%.then, 70.%.now$/);
  });
  it("says so where another leads now", () => {
    const now = suspects(["Motor", 0.6], ["Belt", 0.3]);
    expect(changedWords(suspects(["Belt", 0.81]), now)).toMatch(/; motor leads$/);
  });
  it("says nothing before the answer", () => {
    expect(changedWords(suspects(["Belt", 0.81]), undefined)).toBe("");
  });
});
