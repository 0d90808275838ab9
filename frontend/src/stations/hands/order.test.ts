import { describe, expect, it } from "vitest";

import type { CheckSpec, NextCheck } from "../../api/client";
import { inOrder } from "./order";

function check(code: string, access: string, minutes = 2): CheckSpec {
  return {
    code,
    name: code,
    access,
    access_words: access,
    minutes,
    layouts: [],
    how: "",
    widget: "yes_no",
    places: {},
    act: "look",
    scales: [],
    values: [],
  };
}

const CHECKS = [check("belt", "panel"), check("rock", "outside"), check("turn", "lid", 1), check("clutch", "part")];
const next = (code: string, gain_bits: number, minutes: number) =>
  ({ check: code, name: code, gain_bits, minutes }) as NextCheck;

describe("the order of checks", () => {
  it("begins with what can be done as the machine stands, then what needs more opened", () => {
    const closed = inOrder(CHECKS, [], "outside").map((g) => [g.access, g.checks.map((c) => c.code)]);
    expect(closed).toEqual([
      ["outside", ["rock"]],
      ["lid", ["turn"]],
      ["panel", ["belt"]],
      ["part", ["clutch"]],
    ]);
  });

  it("takes along what could be done before once more is opened, by what it tells in a minute", () => {
    const opened = inOrder(CHECKS, [next("rock", 0.9, 2), next("turn", 0.8, 1)], "panel");
    expect(opened[0]?.checks.map((c) => c.code)).toEqual(["turn", "rock", "belt"]);
    expect(opened[1]?.access).toBe("part");
  });
});
