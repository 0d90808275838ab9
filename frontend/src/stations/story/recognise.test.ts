import { describe, expect, it } from "vitest";

import type { Schemas } from "../../api/client";
import { fitting } from "./recognise";

const layout = (code: string, drum: "front" | "top", inside: string[], driven: string[]) =>
  ({ code, name: code, drum, drive: "belt", inside, driven }) as Schemas["LayoutOut"];

const LAYOUTS = [
  layout("front_belt", "front", ["nothing"], ["belt"]),
  layout("front_direct", "front", ["nothing"], ["shaft"]),
  layout("top_shifter", "top", ["agitator", "plate"], ["belt"]),
  layout("top_splined", "top", ["plate"], ["shaft"]),
];
const codes = (seen: Partial<Record<"drum" | "inside" | "driven", string>>) =>
  fitting(LAYOUTS, { drum: "", inside: "", driven: "", ...seen }).map((l) => l.code);

describe("recognising a layout by what is seen", () => {
  it("leaves what fits, whatever was not seen", () => {
    expect(codes({})).toHaveLength(4);
    expect(codes({ drum: "front" })).toEqual(["front_belt", "front_direct"]);
    expect(codes({ inside: "plate" })).toEqual(["top_shifter", "top_splined"]);
    expect(codes({ inside: "plate", driven: "shaft" })).toEqual(["top_splined"]);
    expect(codes({ drum: "front", inside: "agitator" })).toEqual([]);
  });
});
