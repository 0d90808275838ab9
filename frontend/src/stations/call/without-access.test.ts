import { describe, expect, it } from "vitest";
import { withoutAccess } from "./without-access";

describe("withoutAccess", () => {
  it.each([
    ["Unplugged, panel off. Turn the belt inside out.", "Turn the belt inside out."],
    ["Unplugged, panel off, mind the edges. Lamp along.", "Mind the edges. Lamp along."],
    ["Unplugged. Push the lip up and down.", "Push the lip up and down."],
    ["Unplugged, drum empty. Turn slowly.", "Drum empty. Turn slowly."],
    ["Lean on opposite corners.", "Lean on opposite corners."],
  ])("%s", (how, rest) => {
    expect(withoutAccess(how)).toBe(rest);
  });
});
