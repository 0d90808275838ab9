import { describe, expect, it } from "vitest";

import type { JobShort } from "../../api/client";
import { groups, wantsAHand } from "./groups";

function job(id: string, more: Partial<JobShort> = {}): JobShort {
  const at = "2026-03-04T08:00:00Z";
  const bare = {
    number: 1,
    practice: false,
    created_at: at,
    changed_at: at,
    place: id,
    layout: "front_belt",
    check_count: 0,
  };
  return {
    ...bare,
    id,
    recording_count: 0,
    bridged: false,
    closed: null,
    rings_at: null,
    due_on: null,
    waits_for: "evidence",
    part_on: null,
    ours: false,
    measuring: "none",
    call: null,
    ...more,
  };
}

function told(jobs: readonly JobShort[]): [string, string[]][] {
  return groups(jobs, "2026-03-04").map((g) => [g.name, g.jobs.map((j) => j.id)]);
}

describe("the board", () => {
  it("goes from what is unsafe to what has ended, by what each waits for", () => {
    const jobs = [
      job("ended", { waits_for: "nothing", closed: "mended" }),
      job("decide", { waits_for: "decision" }),
      job("new"),
      job("bridged", { waits_for: "bench", bridged: true }),
      job("busy", { waits_for: "decision", measuring: "running" }),
      job("asked", { waits_for: "customer" }),
      job("open", { waits_for: "bench" }),
      job("spin it", { waits_for: "proof" }),
    ];
    expect(told(jobs)).toEqual([
      ["Make safe first", ["bridged"]],
      ["Wants a check", ["new", "busy"]],
      ["To be decided", ["decide"]],
      ["Waits for the customer", ["asked"]],
      ["Hands inside", ["open"]],
      ["To be proved", ["spin it"]],
      ["Ended", ["ended"]],
    ]);
  });

  it("keeps a part that is to come, and a wait that runs, by themselves", () => {
    const jobs = [
      job("tomorrow", { waits_for: "bench", part_on: "2026-03-05" }),
      job("here", { waits_for: "bench", part_on: "2026-03-04" }),
      job("fills", { waits_for: "evidence", rings_at: "2026-03-04T09:00:00Z" }),
    ];
    expect(told(jobs)).toEqual([
      ["A wait runs", ["fills"]],
      ["Waits for a part", ["tomorrow"]],
      ["Hands inside", ["here"]],
    ]);
  });

  it("has the next day to come back first", () => {
    const jobs = [
      job("later", { waits_for: "follow_up", closed: "mended", due_on: "2026-04-01" }),
      job("sooner", { waits_for: "follow_up", closed: "mended", due_on: "2026-03-05" }),
    ];
    expect(told(jobs)).toEqual([["Come back to it", ["sooner", "later"]]]);
  });

  it("keeps practice apart from what counts", () => {
    const jobs = [job("real"), job("learning", { practice: true, bridged: true, rings_at: "2026-03-04T09:00:00Z" })];
    expect(told(jobs)).toEqual([
      ["Wants a check", ["real"]],
      ["Practice", ["learning"]],
    ]);
  });

  it("loses no job and leaves out what is empty", () => {
    expect(groups([], "2026-03-04")).toEqual([]);
    const closed = job("odd", { waits_for: "nothing", closed: "declined", rings_at: "2026-03-04T09:00:00Z" });
    expect(told([closed])).toEqual([["Ended", ["odd"]]]);
    expect(wantsAHand(closed)).toBe(false);
  });
});
