import { describe, expect, it } from "vitest";

import type { DecisionData, Result } from "../../api/client";
import { stepNow } from "./step-now";

const CHECK = { check: "rock" } as Result["next_checks"][number];
const cheapest = (action: string) => ({ choices: [{ action }] }) as unknown as DecisionData;
const said = (advice: string, checks = [CHECK]) => ({ advice, next_checks: checks });

describe("the step now", () => {
  it("follows the advice where that says it all", () => {
    expect(stepNow(said("record_again"), undefined, true)).toBe("record");
    expect(stepNow(said("commit"), cheapest("open"), true)).toBe("open");
    expect(stepNow(said("check_more"), undefined, false)).toBe("check");
  });
  it("asks for no check where the sum hands on, sees to it or leaves it", () => {
    expect(stepNow(said("check_more"), cheapest("refer"), true)).toBe("refer");
    expect(stepNow(said("no_teardown"), cheapest("see_to"), true)).toBe("see_to");
    expect(stepNow(said("no_teardown"), cheapest("leave"), true)).toBe("leave");
  });
  it("asks for a spin, once, where no check is left", () => {
    expect(stepNow(said("check_more", []), cheapest("check"), false)).toBe("record");
    expect(stepNow(said("check_more", []), cheapest("check"), true)).toBe("nothing");
  });
});
