import { describe, expect, it } from "vitest";

import type { Suspect } from "../../api/client";
import { boardRange, hittable, layRope, LEAST_PX, stagesSaid } from "./tug";

function suspect(weights: number[], probability: number, priorDb: number): Suspect {
  return {
    fault: "belt",
    name: "Belt",
    short: "Belt",
    probability,
    prior_db: priorDb,
    posterior_db: 10 * Math.log10(probability / (1 - probability)),
    evidence: weights.map((weight, i) => ({
      finding: `finding ${String(i)}`,
      weight_db: weight,
      code: `f${String(i)}`,
      name: `Finding ${String(i)}`,
      source: "sound",
      level: "clear",
      reason: "because",
    })),
  };
}

describe("tug board", () => {
  it("makes all pulls and the prior add up to the knot", () => {
    const rope = layRope(suspect([8, -3, 0.2], 0.3, -12));
    const sum = rope.pulls.reduce((total, pull) => total + pull.decibans, 0);
    expect(sum).toBeCloseTo(rope.knotDb, 9);
  });

  it("stacks pulls for to the right and against to the left without overlap", () => {
    const rope = layRope(suspect([8, 4, -3], 0.3, -12));
    const right = rope.pulls.filter((pull) => pull.decibans > 0);
    expect(right.map((pull) => pull.startDb)).toEqual([0, 8]);
    const left = rope.pulls.filter((pull) => pull.decibans < 0);
    expect(left[0]?.startDb).toBe(0);
    expect(left[1]?.startDb).toBe(-12);
  });

  it("draws nothing that a thumb cannot hit, and says what was put together", () => {
    const rope = hittable(layRope(suspect([12, 2, 1.5, 1.5, -1, -9], 0.3, -4)), 6);
    for (const pull of rope.pulls) expect(Math.abs(pull.decibans) * 6).toBeGreaterThanOrEqual(LEAST_PX);
    const small = rope.pulls.find((pull) => pull.key === "small-for");
    expect(small?.parts?.map((part) => part.key)).toEqual(["f1", "f2", "f3"]);
    expect(rope.pulls.filter((pull) => pull.decibans > 0).map((pull) => pull.startDb)).toEqual([0, 12]);
  });

  it("keeps every pull on the board", () => {
    const rope = layRope(suspect([22], 0.95, -9));
    const [low, high] = boardRange([rope]);
    expect(low).toBeLessThanOrEqual(-9);
    expect(high).toBeGreaterThanOrEqual(22);
  });

  it("says how far it has gone, the likeliest first, without what is hardly worth a word", () => {
    expect(stagesSaid({ whine: 0.02, growl: 0.71, collapsed: 0.27 })).toBe("growl 71\u00a0%, collapsed 27\u00a0%");
    expect(stagesSaid(null)).toBe("");
  });
});
