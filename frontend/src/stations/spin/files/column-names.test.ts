import { describe, expect, it } from "vitest";

import type { TableAsked } from "../../../api/client";
import { missing, type Named, namingLine, withNames } from "./column-names";

const ASKED: TableAsked = {
  question: "Which columns are the time and the acceleration?",
  rows: [
    ["Zeit", "links", "vorn", "Akku"],
    ["0", "1", "2", "97"],
  ],
  meant: ["", "", "", ""],
  separator: ";",
  lines_before: 2,
  in_archive: false,
};
const NAMED: Named = { meant: ["t", "x", "y", ""], time: "t_ms", motion: "g" };

describe("naming the columns of a log", () => {
  it("says what is still missing, in the order in which it is asked", () => {
    expect(missing({ meant: ["", "x"], time: "", motion: "" })).toContain("is the time");
    expect(missing({ meant: ["t", ""], time: "", motion: "" })).toContain("are the acceleration");
    expect(missing({ meant: ["t", "x", "x"], time: "t_s", motion: "g" })).toContain("the same");
    expect(missing({ ...NAMED, time: "" })).toContain("unit the time");
    expect(missing({ ...NAMED, motion: "" })).toContain("unit the acceleration");
    expect(missing(NAMED)).toBeNull();
  });

  it("writes the names that every reader of the open format knows", () => {
    expect(namingLine(NAMED, ";")).toBe("t_ms;ax_g;ay_g;other_4");
  });

  it.each([
    ["plain", (text: string) => new Blob([text])],
    [
      "wide",
      (text: string) => new Blob([new Uint8Array([0xff, 0xfe]), Uint16Array.from(text, (c) => c.charCodeAt(0))]),
    ],
  ])("replaces the lines above the first row and nothing else (%s)", async (_, write) => {
    const blob = write("# a logger\nZeit;links;vorn;Akku\n0;1;2;97\n5;1;2;97\n");
    const out = await withNames(blob, NAMED, ASKED);
    expect(await out.text()).toBe("t_ms;ax_g;ay_g;other_4\n0;1;2;97\n5;1;2;97\n");
  });
});
