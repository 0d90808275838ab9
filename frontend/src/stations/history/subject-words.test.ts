import { describe, expect, it } from "vitest";

import type { Catalogue } from "../../api/client";
import { subjectWords } from "./subject-words";

const CATALOGUE = {
  checks: [{ code: "bounce", name: "Push the tub down and let go" }],
  symptoms: [{ code: "shakes", name: "Shakes" }],
} as unknown as Catalogue;

describe("what two entries speak of", () => {
  it("is said in the words that it was entered by", () => {
    expect(subjectWords("check", "bounce.rear_left", CATALOGUE)).toBe("“Push the tub down and let go”, rear left");
    expect(subjectWords("told", "shakes", CATALOGUE)).toBe("“Shakes”");
    expect(subjectWords("machine", "bearings.rear", CATALOGUE)).toBe("the outer bearing");
  });

  it("is said as well as can be without the lists", () => {
    expect(subjectWords("check", "drum_gap_round", undefined)).toBe("“drum gap round”");
    expect(subjectWords("contact", "access_note", undefined)).toBe("access note");
  });
});
