import { describe, expect, it } from "vitest";

import { digitsOf, minorOf, money, moneyRange } from "./money";

describe("money", () => {
  it("is written with its currency and its own digits", () => {
    expect(money({ minor: 1990, currency: "EUR" })).toMatch(/19\.90|19,90/);
    expect(money({ minor: 1990, currency: "JPY" })).toMatch(/1,?990/);
    expect(money({ minor: 1990, currency: "EUR" }, true)).toMatch(/20/);
    expect([digitsOf("EUR"), digitsOf("JPY"), digitsOf("KWD")]).toEqual([2, 0, 3]);
  });

  it("is one amount where it is sure", () => {
    const ten = { minor: 1000, currency: "EUR" };
    expect(moneyRange({ low: ten, high: ten })).not.toContain("to");
    expect(moneyRange({ low: ten, high: { minor: 2000, currency: "EUR" } })).toContain(" to ");
  });

  it("reads what was typed with either decimal mark and refuses the rest", () => {
    expect(minorOf("19,9", "EUR")).toBe(1990);
    expect(minorOf("19.90", "EUR")).toBe(1990);
    expect(minorOf("1990", "JPY")).toBe(1990);
    for (const wrong of ["", "-3", "1e9", "12a", "1.2.3"]) expect(minorOf(wrong, "EUR")).toBeNull();
  });
});
