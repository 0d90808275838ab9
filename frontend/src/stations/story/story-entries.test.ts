import { describe, expect, it, vi } from "vitest";

import { noteEntries, readNumber, readText, toldEntries, unlikelyNumber } from "./story-entries";

vi.mock("../../device/ids", () => ({ uuid7: () => "id", deviceName: () => "phone", nowWithZone: () => "now" }));

const bodies = (entries: ReturnType<typeof toldEntries>) => entries.map((e) => e.body);
const SPEED = { low: 100, high: 2500, usual_low: 400, usual_high: 1600 };

describe("what is told", () => {
  it("says what changed and nothing else", () => {
    const before = { symptoms: ["shakes"], details: {} };
    expect(toldEntries(before, before)).toEqual([]);
    expect(bodies(toldEntries(before, { symptoms: ["walks"], details: {} }))).toEqual([
      { symptom: "walks", present: true },
      { symptom: "shakes", present: false },
    ]);
  });

  it("tells a symptom again when something more is told of it", () => {
    const before = { symptoms: ["shakes"], details: { shakes: { phase: "ramp" } } };
    expect(toldEntries(before, { ...before, details: { shakes: { phase: "ramp" } } })).toEqual([]);
    const now = { symptoms: ["shakes", "walks"], details: { shakes: { phase: "ramp", since: "weeks" }, walks: {} } };
    expect(bodies(toldEntries(before, now))).toEqual([
      { symptom: "shakes", present: true, phase: "ramp", since: "weeks" },
      { symptom: "walks", present: true },
    ]);
  });
});

describe("a note", () => {
  it("is one, whatever was there before", () => {
    const notes = [{ entry: "1" }, { entry: "2" }];
    expect(noteEntries("c", "story", notes).map((e) => [e.body, e.replaces])).toEqual([
      [{ text: "c", about: "story" }, "1"],
      [null, "2"],
    ]);
    expect(noteEntries(" ", "story", notes).map((e) => [e.body, e.replaces])).toEqual([
      [null, "1"],
      [null, "2"],
    ]);
    expect(noteEntries("", "story", [])).toEqual([]);
  });
});

describe("what is typed", () => {
  it("is read with a comma or a point, and taken back by nothing", () => {
    expect(readNumber(" 11,4 ", SPEED)).toEqual({ ok: false, say: expect.stringContaining("between 100 and 2500") });
    expect(readNumber("1200", SPEED)).toEqual({ ok: true, value: 1200 });
    expect(readNumber("", SPEED)).toEqual({ ok: true, value: null });
    expect(readNumber("fast", undefined)).toMatchObject({ ok: false });
    expect(readText("Say where.")(" ")).toEqual({ ok: false, say: "Say where." });
    expect(readText()(" ")).toEqual({ ok: true, value: "" });
  });

  it("is asked about where it is hardly so", () => {
    expect(unlikelyNumber("1200", SPEED)).toBeNull();
    expect(unlikelyNumber("", SPEED)).toBeNull();
    expect(unlikelyNumber("2200", SPEED)).toBe("Usual is 400 to 1600. Is it 2200?");
  });
});
