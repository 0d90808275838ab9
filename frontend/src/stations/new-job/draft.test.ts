import { describe, expect, it, vi } from "vitest";

import { EMPTY_DRAFT, entriesOf, missing } from "./draft";

vi.mock("../../device/ids", () => ({ uuid7: () => "id", deviceName: () => "phone", nowWithZone: () => "now" }));

const bodies = (checked: ReturnType<typeof entriesOf>) =>
  checked.ok ? checked.entries.map((e) => [e.kind, e.body]) : [];

describe("what was typed about a job", () => {
  it("asks for the place and nothing else: a layout that cannot be told stays open", () => {
    expect(missing(EMPTY_DRAFT)).toBe("Say where the machine is.");
    expect(missing({ ...EMPTY_DRAFT, place: "Here" })).toBeNull();
  });

  it("says what was edited and nothing else", () => {
    const before = { ...EMPTY_DRAFT, place: "Here", layout: "front_belt", maxSpinRpm: "1200", symptoms: ["shakes"] };
    expect(bodies(entriesOf({}, before))).toEqual([]);
    expect(bodies(entriesOf({ maxSpinRpm: "1200", place: "Here" }, before))).toEqual([]);
    expect(bodies(entriesOf({ pulleyRatio: "11,4", maxSpinRpm: "", rearBearing: "6205" }, before))).toEqual([
      ["machine", { pulley_ratio: 11.4, max_spin_rpm: null, bearings: { rear: "6205" } }],
    ]);
    expect(bodies(entriesOf({ symptoms: ["walks"] }, before))).toEqual([
      ["told", { symptom: "walks", present: true }],
      ["told", { symptom: "shakes", present: false }],
    ]);
  });

  it("tells a symptom again when something more is told of it", () => {
    const before = { ...EMPTY_DRAFT, symptoms: ["shakes"], details: { shakes: { phase: "ramp" } } };
    expect(bodies(entriesOf({ details: { shakes: { phase: "ramp" } } }, before))).toEqual([]);
    const edits = { symptoms: ["shakes", "walks"], details: { shakes: { phase: "ramp", since: "weeks" }, walks: {} } };
    expect(bodies(entriesOf(edits, before))).toEqual([
      ["told", { symptom: "shakes", present: true, phase: "ramp", since: "weeks" }],
      ["told", { symptom: "walks", present: true }],
    ]);
  });

  it("keeps one note, whatever was there before", () => {
    const before = { ...EMPTY_DRAFT, note: "a\nb" };
    const notes = [{ entry: "1" }, { entry: "2" }];
    const changed = entriesOf({ note: "c" }, before, notes);
    expect(changed.ok && changed.entries.map((e) => [e.body, e.replaces])).toEqual([
      [{ text: "c", about: "story" }, "1"],
      [null, "2"],
    ]);
    const gone = entriesOf({ note: " " }, before, notes);
    expect(gone.ok && gone.entries.map((e) => [e.body, e.replaces])).toEqual([
      [null, "1"],
      [null, "2"],
    ]);
  });

  it("names the field that is not a number", () => {
    expect(entriesOf({ maxSpinRpm: "fast" }, EMPTY_DRAFT)).toEqual({
      ok: false,
      say: "The plate speed is not a number.",
    });
  });
});
