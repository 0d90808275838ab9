import { describe, expect, it } from "vitest";

import { EMPTY_DRAFT, machineOf } from "./draft";

const typed = { ...EMPTY_DRAFT, place: "Lock cottage 1", layout: "front_belt" };

describe("new job", () => {
  it("asks for place and layout, in that order", () => {
    expect(machineOf(EMPTY_DRAFT)).toEqual({ ok: false, say: "Say where the machine is." });
    expect(machineOf({ ...EMPTY_DRAFT, place: "Here" })).toEqual({ ok: false, say: "Choose the layout." });
  });

  it("understands a decimal comma and leaves unknown facts null", () => {
    const checked = machineOf({ ...typed, pulleyRatio: "11,4" });
    expect(checked.ok && checked.machine.pulley_ratio).toBe(11.4);
    expect(checked.ok && checked.machine.max_spin_rpm).toBeNull();
  });

  it("names the field that is not a number", () => {
    expect(machineOf({ ...typed, maxSpinRpm: "fast" })).toEqual({ ok: false, say: "The plate speed is not a number." });
  });
});
