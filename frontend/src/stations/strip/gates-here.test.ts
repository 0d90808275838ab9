import { describe, expect, it } from "vitest";

import type { Job, StripData } from "../../api/client";
import { emptyJob } from "../../device/overlay";
import { uuid7 } from "../../device/ids";
import { gatesHere, madeAt } from "./gates-here";

const OPENED = "2026-03-04T08:00:00Z";
const gate = (code: string, ...steps: string[]) => ({ code, asks: code, steps, missing: "" });
const PLAN = {
  off: [
    { step: "top_coupler/cabinet_off", name: "Cabinet off" },
    { step: "top_coupler/motor_out", name: "Motor out" },
  ],
  fit: [],
  on: [],
  gates_ahead: [
    gate("tray_empty", "cabinet_off", "motor_out"),
    gate("counts_match", "motor_out"),
    gate("covers_on", "cabinet_off"),
    gate("plugs", "motor_out"),
    gate("no_bridge", "cabinet_off", "motor_out"),
    gate("hand_turn", "cabinet_off", "motor_out"),
  ],
  closed_by: { cabinet_off: ["cabinet_off", "cabinet_on"], motor_out: ["motor_out"] },
} as unknown as StripData;

function job(taken: readonly (readonly [string, string])[], more: Partial<Job> = {}): Job {
  const blank = emptyJob("a", OPENED);
  const steps = taken.map(([step, way]) => ({
    step: `top_coupler/${step}`,
    way,
    state: "done",
    rung: null,
    entry: step,
    at: OPENED,
  }));
  return { ...blank, ...more, strip: { ...blank.strip, ...more.strip, steps } };
}

const missing = (of: Job) => Object.fromEntries(gatesHere(of, PLAN).map((g) => [g.code, g.missing]));

describe("gates without a signal", () => {
  it("ask of what was opened alone", () => {
    expect(missing(job([]))).toEqual({});
    expect(Object.keys(missing(job([["cabinet_off", "off"]])))).toEqual([
      "tray_empty",
      "covers_on",
      "no_bridge",
      "hand_turn",
    ]);
  });

  it("are passed by the way back, by whichever step closes it", () => {
    const off = [
      ["cabinet_off", "off"],
      ["motor_out", "off"],
    ] as const;
    expect(missing(job(off))).toMatchObject({ covers_on: "Cabinet off", plugs: "Motor out", no_bridge: "" });
    const back = job([...off, ["cabinet_on", "on"], ["motor_out", "on"], ["tray_ready", "on"]]);
    expect(missing(back)).toMatchObject({ covers_on: "", plugs: "", tray_empty: "" });
  });

  it("count screws, and name a bridge", () => {
    const blank = emptyJob("a", OPENED);
    const counted = [{ step: "top_coupler/motor_out", group: "straps", out: 2, into: 1 }];
    const bridged = [{ where: "lid switch", entry: "b", at: OPENED }];
    const open = job([["motor_out", "off"]], {
      strip: { ...blank.strip, counted },
      any_time: { ...blank.any_time, bridged },
    });
    expect(missing(open)).toMatchObject({
      counts_match: "Motor out, straps: 2 out, 1 in",
      no_bridge: "bridged: lid switch",
    });
  });

  it("want the drum turned after the last thing was opened, not before", () => {
    const check = (entry: string) => ({ check: "hand_turn", values: { feel: "smooth" }, entry, before: [] });
    const before = `${(Date.parse(OPENED) - 60_000).toString(16).padStart(12, "0")}70008000000000000000`;
    const turned = (entry: string) => missing(job([["motor_out", "off"]], { checks: [check(entry)] }))["hand_turn"];
    expect(turned(before)).toBe("not turned by hand since it was closed");
    expect(turned(uuid7())).toBe("");
  });

  it("read the moment from an id", () => {
    expect(Math.abs(madeAt(uuid7()) - Date.now())).toBeLessThan(5000);
  });
});
