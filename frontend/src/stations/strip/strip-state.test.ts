import { describe, expect, it } from "vitest";

import type { Job, PlannedStep, StripData } from "../../api/client";
import { emptyJob } from "../../device/overlay";
import type { AnyEntry } from "../../device/entries";
import { photosOf } from "../../lib/photos-of";
import { ACTS, marksOf, marksText, minutesLeft, nextStep, placed, stateOf, tallyOf, uneven } from "./strip-state";

function planned(id: string | null, more: Partial<PlannedStep> = {}): PlannedStep {
  const step = id === null ? null : `top_coupler/${id}`;
  return { step, name: id ?? "Look", minutes: 2, optional: false, fasteners: [], ...more } as PlannedStep;
}

const SCREWS = {
  group: "straps",
  kind: "screw",
  least: 2,
  most: 2,
  drive: "",
  cell: 3,
  orders: {},
};
const PLAN = {
  off: [planned("pump_off"), planned("motor_out", { fasteners: [SCREWS] })],
  fit: [planned(null), planned("bead", { optional: true }), planned("motor_out", { fasteners: [SCREWS] })],
  on: [planned("pump_off")],
} as unknown as StripData;

function job(...steps: [string, string, string][]): Job {
  const blank = emptyJob("a", "2026-03-04T08:00:00Z");
  const taken = steps.map(([id, way, state]) => ({
    step: `top_coupler/${id}`,
    way,
    state,
    rung: null,
    entry: id,
    at: "",
  }));
  return { ...blank, strip: { ...blank.strip, steps: taken } };
}

describe("a strip", () => {
  const steps = placed(PLAN);

  it("goes off, is fitted, goes on", () => {
    expect(steps.map((s) => `${s.part} ${s.way}`)).toEqual([
      "off off",
      "off off",
      "fit on",
      "fit on",
      "fit on",
      "on on",
    ]);
    expect(nextStep(job(), steps)?.planned.name).toBe("pump_off");
  });

  it("tells the two ways of one step apart", () => {
    const half = job(["pump_off", "off", "done"], ["motor_out", "off", "done"]);
    expect(stateOf(half, steps[1] as never)).toBe("done");
    expect(stateOf(half, steps[4] as never)).toBe("open");
    expect(nextStep(half, steps)?.planned.name).toBe("Look");
  });

  it("stays at what is stuck, and passes over what was left out", () => {
    const stuck = job(["pump_off", "off", "stuck"]);
    expect(nextStep(stuck, steps)?.planned.name).toBe("pump_off");
    const blank = job(["pump_off", "off", "done"], ["motor_out", "off", "done"], ["motor_out", "on", "done"]);
    const noted = { ...blank.any_time, notes: [{ text: "Look", about: ACTS, entry: "n" }] };
    expect(nextStep({ ...blank, any_time: noted }, steps)?.planned.name).toBe("pump_off");
  });

  it("counts what is still in the tray", () => {
    const blank = job();
    const counted = [{ step: "top_coupler/motor_out", group: "straps", out: 2, into: 1 }];
    const half = { ...blank, strip: { ...blank.strip, counted } };
    expect(tallyOf(half, "top_coupler/motor_out", "straps")).toEqual({ out: 2, into: 1 });
    expect(uneven(half, steps)).toEqual(["cell 3, motor_out, straps: 1 still in the tray"]);
    expect(uneven(blank, steps)).toEqual([]);
  });

  it("adds up the minutes that are left, without what is optional", () => {
    expect(minutesLeft(job(), steps)).toBe(10);
    expect(minutesLeft(job(["pump_off", "off", "done"]), steps)).toBe(8);
  });
});

describe("photos of a step", () => {
  it("are those that were sent and those that wait on this device, each once", () => {
    const about = "top_coupler/motor_out";
    const blank = emptyJob("a", "2026-03-04T08:00:00Z");
    const sent = { photo: "p1", about, role: "before", entry: "e1" };
    const here = {
      ...blank,
      any_time: { ...blank.any_time, photos: [sent, { ...sent, photo: "p0", about: "other" }] },
    };
    const file = (id: string, of: string) => ({
      id,
      jobId: "a",
      what: "photos" as const,
      entry: { kind: "photo", body: { photo: id, about: of, role: "after" } } as AnyEntry,
    });
    const files = [file("p1", about), file("p2", about), file("p3", "other"), { ...file("p4", about), jobId: "b" }];
    expect(photosOf(here, files, about)).toEqual([
      { photo: "p1", role: "before" },
      { photo: "p2", role: "after" },
    ]);
  });
});

describe("marks round the clock", () => {
  it("are a note that anybody can read, and are read back", () => {
    expect(marksText([0, 4, 8])).toBe("Marks at 12, 4, 8 o’clock");
    expect(marksOf(marksText([0, 4, 8]))).toEqual([0, 4, 8]);
    expect(marksOf(marksText([]))).toEqual([]);
    expect(marksOf("Spring hooks face outward")).toBeNull();
  });
});
