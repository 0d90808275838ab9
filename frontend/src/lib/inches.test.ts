import { describe, expect, it } from "vitest";

import { inchesOf, mmOfInches } from "./inches";

describe("inches as hands find them", () => {
  it("are whole, in parts, or both", () => {
    expect(inchesOf("1 3/16")).toBe(1.1875);
    expect(inchesOf("3/8")).toBe(0.375);
    expect(inchesOf("0.25")).toBe(0.25);
  });

  it("are not read half-way", () => {
    for (const typed of ["", "3/", "1/0", "1 2", "1 2 3/4", "1/2/3", "/4"]) expect(inchesOf(typed)).toBeNull();
  });

  it("become millimetres to a twentieth", () => {
    expect(mmOfInches("1/8")).toBe("3.2");
    expect(mmOfInches("3/16")).toBe("4.75");
    expect(mmOfInches("3/")).toBe("");
  });
});
