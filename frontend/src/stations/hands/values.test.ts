import { describe, expect, it } from "vitest";

import type { ValueSpec } from "../../api/client";
import { saidBy } from "../../lib/format";
import { checkedValues, readingWords, typedOf } from "./values";

function spec(name: string, kind: string): ValueSpec {
  return { name, kind, label: name, unit: "", choices: [], low: 0, high: 100, count: [1, 16] };
}

describe("hand checks", () => {
  it("reads numbers, lists, flags and open circuits", () => {
    const specs = [
      spec("play_mm", "number"),
      spec("gaps_mm", "numbers"),
      spec("loose", "flag"),
      spec("open_ohm", "ohms"),
    ];
    const checked = checkedValues(specs, { play_mm: "1,5", gaps_mm: "3 4;5", loose: "no", open_ohm: "open" });
    expect(checked).toEqual({ ok: true, values: { play_mm: 1.5, gaps_mm: [3, 4, 5], loose: false, open_ohm: "open" } });
  });

  it("leaves out what was not entered and refuses an empty check", () => {
    expect(checkedValues([spec("a", "number"), spec("b", "number")], { b: "2" })).toEqual({
      ok: true,
      values: { b: 2 },
    });
    expect(checkedValues([spec("a", "number")], { a: " " }).ok).toBe(false);
  });

  it("says which value cannot be read", () => {
    expect(checkedValues([spec("gaps_mm", "numbers")], { gaps_mm: "3 x" })).toEqual({
      ok: false,
      say: "gaps_mm: “3 x” cannot be read.",
      wrong: true,
    });
  });

  it("says which value is outside its limits before anything is kept", () => {
    const limited = { ...spec("heights_mm", "numbers"), unit: "mm" };
    expect(checkedValues([limited], { heights_mm: "41 4141 42" })).toEqual({
      ok: false,
      say: "heights_mm, number 2: 4141 is outside 0 to 100 mm.",
      wrong: true,
    });
    expect(checkedValues([limited], { heights_mm: "0 100" }).ok).toBe(true);
  });

  it("says so when some places are not read yet", () => {
    expect(checkedValues([spec("gaps_mm", "numbers")], { gaps_mm: "3 - 4 -" })).toEqual({
      ok: false,
      say: "Some places are not read yet.",
      wrong: false,
    });
  });

  it("puts values that were kept back to where they were entered", () => {
    const specs = [spec("gap_mm", "numbers"), spec("detached", "choices"), spec("loose", "flag"), spec("x", "number")];
    const values = { gap_mm: [0, 2.5], detached: [], loose: true, x: 1.5 };
    const typed = typedOf(specs, values);
    expect(typed).toEqual({ gap_mm: "0 2.5", detached: "none", loose: "yes", x: "1.5" });
    expect(checkedValues(specs, typed)).toEqual({ ok: true, values });
  });

  it("says a finished check with its units", () => {
    const turn = [{ ...spec("feel", "choice") }, { ...spec("turns", "number"), unit: "turns" }];
    expect(readingWords(turn, { feel: "rumble", turns: 1 })).toBe("rumble, 1 turn");
    expect(readingWords(turn, { feel: "rumble", turns: 2.5 })).toBe("rumble, 2.5 turns");
    const gaps = [{ ...spec("gap_mm", "numbers"), unit: "mm" }];
    expect(readingWords(gaps, { gap_mm: [0, 2.5] })).toBe("0 · 2.5 mm");
    const dogs = [
      { ...spec("grips", "flag"), label: "Grips one way" },
      { ...spec("free", "flag"), label: "Free the other way" },
    ];
    expect(readingWords(dogs, { grips: true, free: false })).toBe("grips one way: yes, free the other way: no");
    expect(readingWords(dogs, { grips: true })).toBe("yes");
    expect(readingWords(gaps, { gap_mm: [1], corner: "rear_left" })).toBe("1 mm, rear left");
    expect(readingWords([{ ...spec("closed", "ohms"), unit: "ohm" }], { closed: "open" })).toBe("open");
  });

  it("names the place that is outside its limits", () => {
    const corners = { ...spec("heights_mm", "numbers"), label: "Front left, rear right", count: [2, 2], unit: "mm" };
    expect(checkedValues([corners], { heights_mm: "40 4141" })).toMatchObject({
      say: "rear right: 4141 is outside 0 to 100 mm.",
    });
    const feet = { ...corners, label: "Gap under each foot: front left, rear right" };
    expect(checkedValues([feet], { heights_mm: "4141 3" })).toMatchObject({
      say: "Gap under each foot, front left: 4141 is outside 0 to 100 mm.",
    });
    const round = { ...corners, label: "Gaps in order of turning", count: [4, 16] };
    expect(checkedValues([round], { heights_mm: "3 4 5 4141" })).toMatchObject({
      say: "Gaps in order of turning, number 4: 4141 is outside 0 to 100 mm.",
    });
  });

  it("says a finished check in one line", () => {
    expect(saidBy({ feel: "scrapes_once_per_turn", detached: [], slips: true })).toBe(
      "scrapes once per turn, none, yes",
    );
  });
});
