import { describe, expect, it } from "vitest";

import type { DecisionData } from "../../api/client";
import { gateTitle } from "./gate";

function sum(action: string, name: string, first: string[] = []): DecisionData {
  return {
    choices: [{ action, name }],
    first: first.map((f) => ({ code: f, name: f })),
  } as unknown as DecisionData;
}

describe("the gate's title", () => {
  it("says what costs least", () => {
    expect(gateTitle(sum("check", "Lift the drum's lip"))).toBe("Cheapest now: lift the drum's lip, then decide");
    expect(gateTitle(sum("leave", "Leave it as it is"))).toBe("Cheapest now: leave it as it is");
    expect(gateTitle(sum("record", "Record a spin test"))).toBe("Cheapest now: record a spin test, then decide");
    expect(gateTitle(sum("refer", "Hand it on"))).toBe("Cheapest now: hand it on");
    expect(gateTitle(sum("open", "Open for: belt"))).toBe("Cheapest now: open for: belt");
  });

  it("names what comes first by rule", () => {
    expect(gateTitle(sum("open", "Open for: spider arm", ["Gap round"]))).toBe("Opening is near: gap round first");
  });

  it("has nothing to say of nothing", () => {
    expect(gateTitle({ choices: [], first: [] } as unknown as DecisionData)).toBe("Nothing to weigh yet");
  });
});
