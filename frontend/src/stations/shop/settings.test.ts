import { describe, expect, it } from "vitest";

import { readSetting, type Setting, typedSetting } from "./settings";

const HOUR: Setting = { name: "hour", label: "", unit: "", kind: "money" };
const LIFE: Setting = { name: "life_years", label: "", unit: "", kind: "number" };

describe("a setting of the shop", () => {
  it("stands in whole units and is kept in the smallest", () => {
    expect(typedSetting(HOUR, 6050, 2)).toBe("60.50");
    expect(readSetting(HOUR, "60,5", "EUR")).toBe(6050);
    expect(readSetting(HOUR, "6000", "JPY")).toBe(6000);
  });

  it("is not guessed where it cannot be read", () => {
    expect(readSetting(HOUR, "much", "EUR")).toBeNull();
    expect(readSetting(LIFE, "", "EUR")).toBeNull();
    expect(readSetting(LIFE, "7,5", "EUR")).toBe(7.5);
    expect(readSetting({ ...LIFE, kind: "text" }, " eur ", "EUR")).toBe("EUR");
  });
});
