import { describe, expect, it } from "vitest";

import type { AnyEntry } from "./entries";
import { emptyJob, jobsOpenedHere, withWaiting } from "./overlay";
import type { WaitingEntry } from "./store";

function waiting(...entries: object[]): WaitingEntry[] {
  return entries.map((entry, i) => {
    const whole = { id: `e${String(i)}`, made_at: "2026-03-04T08:00:00Z", device: "phone", replaces: null, ...entry };
    return { key: i, jobId: "a", opens: true, entry: whole as AnyEntry };
  });
}

const MACHINE = { kind: "machine", body: { place: "Weir house", layout: "front_belt", bearings: { rear: "6205" } } };
const ROCK = { kind: "check", body: { check: "rock", values: { gap_mm: [0, 0, 5, 0] } } };

describe("a job with what waits here", () => {
  it("is the server's own where nothing waits", () => {
    const job = emptyJob("a", "");
    expect(withWaiting(job, [], "a")).toBe(job);
    expect(withWaiting(undefined, [], "a")).toBeUndefined();
  });

  it("shows what was entered before the server knows of it", () => {
    const told = { kind: "told", body: { symptom: "shakes", present: true } };
    const note = { kind: "note", body: { text: "Walks.", about: "story" } };
    const job = withWaiting(undefined, waiting(MACHINE, told, note, ROCK), "a");
    expect(job?.place).toBe("Weir house");
    expect(job?.machine).toMatchObject({ layout: "front_belt", bearings: { rear: "6205" } });
    expect([job?.symptoms, job?.note]).toEqual([["shakes"], "Walks."]);
    expect(job?.checks.map((c) => c.check)).toEqual(["rock"]);
    expect(job?.call).toBeNull();
  });

  it("takes out what is corrected or taken back", () => {
    const again = { kind: "check", body: { check: "rock", values: { gap_mm: [1, 0, 0, 0] } }, replaces: "e0" };
    const once = withWaiting(undefined, waiting(ROCK, again), "a");
    expect(once?.checks.map((c) => c.values)).toEqual([{ gap_mm: [1, 0, 0, 0] }]);
    const gone = withWaiting(undefined, waiting(ROCK, { kind: "check", body: null, replaces: "e0" }), "a");
    expect(gone?.checks).toEqual([]);
  });

  it("keeps bounces of different corners apart", () => {
    const bounce = (corner: string) => ({ kind: "check", body: { check: "bounce", values: { corner, swings: 2 } } });
    const job = withWaiting(undefined, waiting(bounce("rear_left"), bounce("rear_right"), bounce("rear_left")), "a");
    expect(job?.checks.map((c) => c.values["corner"])).toEqual(["rear_right", "rear_left"]);
  });

  it("stands on the board until the server has it", () => {
    const here = waiting(MACHINE);
    expect(jobsOpenedHere([], here).map((j) => j.place)).toEqual(["Weir house"]);
    const known = jobsOpenedHere([], here);
    expect(jobsOpenedHere(known, here)).toEqual([]);
  });
});
