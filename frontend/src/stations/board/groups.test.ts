import { describe, expect, it } from "vitest";

import type { JobShort } from "../../api/client";
import { groups } from "./groups";

function job(id: string, more: Partial<JobShort>): JobShort {
  const at = "2026-03-04T08:00:00Z";
  const bare = { number: 1, created_at: at, changed_at: at, place: id, layout: "front_belt", check_count: 0 };
  return {
    ...bare,
    id,
    recording_count: 0,
    bridged: false,
    closed: null,
    rings_at: null,
    due_on: null,
    measuring: "none",
    call: null,
    ...more,
  };
}

function called(advice: string): JobShort["call"] {
  const versions = { code_version: "", knowledge_version: "" };
  return { id: 1, weighed: 1, headline: "", advice, leader: "belt", leader_probability: 0.9, ...versions };
}

describe("the board", () => {
  it("puts what wants a hand first, a bridged interlock before all", () => {
    const jobs = [
      job("done", { call: called("commit") }),
      job("new", {}),
      job("closed", { call: called("check_more"), closed: "mended" }),
      job("bridged", { call: called("commit"), closed: null, bridged: true }),
      job("busy", { call: called("commit"), measuring: "running" }),
    ];
    const found = groups(jobs, new Date("2026-03-04T12:00:00Z"));
    expect(found.map((g) => [g.name, g.jobs.map((j) => j.id)])).toEqual([
      ["Wants a hand", ["bridged", "new", "busy"]],
      ["Has its call", ["done"]],
      ["Closed", ["closed"]],
    ]);
  });

  it("leaves out what is empty", () => {
    expect(groups([], new Date())).toEqual([]);
  });
});
