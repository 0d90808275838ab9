import { expect, it } from "vitest";

import type { Result } from "../../api/client";
import { figureTold } from "./figure-told";

function suspect(short: string, weights: Record<string, number>) {
  const evidence = Object.entries(weights).map(([code, weight_db]) => ({
    code,
    weight_db,
    name: `Finding ${code}`,
    level: "violent",
  }));
  return { short, evidence };
}

const RESULT = {
  suspects: [
    suspect("Spider arm", { strong_shake: 9.2, growth: 0.1 }),
    suspect("Not level", { strong_shake: -4 }),
    suspect("Pump", { strong_shake: 0.2 }),
    suspect("The load", { strong_shake: -12 }),
    suspect("Belt", { strong_shake: 1 }),
  ],
} as unknown as Result;

it("tells whom a figure's findings move most, either way", () => {
  const [shake, growth] = figureTold(RESULT, ["strong_shake", "growth"]);
  expect(shake).toEqual({
    finding: "Finding strong_shake",
    level: "violent",
    moved: [
      { short: "The load", decibans: -12 },
      { short: "Spider arm", decibans: 9.2 },
      { short: "Not level", decibans: -4 },
    ],
  });
  expect(growth?.moved).toEqual([]);
});

it("tells nothing of findings that the call does not hold", () => {
  expect(figureTold(RESULT, ["axial"])).toEqual([]);
});
