import { describe, expect, it } from "vitest";

import { changed, freeName, freeRun, guessKind, pendingOf } from "./pending";

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

  it("changes together what was recorded together", () => {
    const [sound, motion, other] = ["a.wav", "a.csv", "b.wav"].map((name, i) => ({
      ...pendingOf(new File(["x"], name, { lastModified: i }), undefined),
      ...(i < 2 ? { takeId: 7 } : {}),
    }));
    if (!sound || !motion || !other) throw new Error("three entries");
    const after = changed([sound, motion, other], { ...sound, position: "rear_panel", load: "full", startS: "2" });
    expect(after.map((p) => [p.position, p.load, p.startS])).toEqual([
      ["rear_panel", "full", "2"],
      ["rear_panel", "full", "0"],
      ["top_centre", "empty", "0"],
    ]);
  });
});
