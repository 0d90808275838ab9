import { describe, expect, it } from "vitest";

import { freeName, freeRun, guessKind } from "./pending";

describe("dropped files", () => {
  it("guesses the kind by name", () => {
    expect(guessKind("Spin test.WAV")).toBe("audio");
    expect(guessKind("phone.csv")).toBe("acceleration");
    expect(guessKind("tacho.csv")).toBe("tacho");
    expect(guessKind("clamp-current.csv")).toBe("current");
  });

  it("never replaces a recording of the same name", () => {
    expect(freeName("spin.wav", [])).toBe("spin.wav");
    expect(freeName("spin.wav", ["spin.wav", "spin-2.wav"])).toBe("spin-3.wav");
  });

  it("gives what is recorded together a run of its own", () => {
    expect(freeRun([])).toBe("1");
    expect(freeRun(["1", null, "2", "loaded"])).toBe("3");
  });
});
