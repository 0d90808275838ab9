import { describe, expect, it } from "vitest";

import type { Curves } from "../../../api/client";
import { earWays, listenUrl, beatWay, raisedWords, stretchAt, stretchWords } from "./ear-ways";

const t_s = Array.from({ length: 401 }, (_, i) => i / 8);
const CURVES: Curves = {
  t_s,
  sigma_rpm: [],
  rpm: t_s.map((t) => (t < 5 ? null : Math.min(1000, 100 * (t - 5)))),
  phases: [
    { name: "ramp", start_s: 5, end_s: 15 },
    { name: "plateau", start_s: 15, end_s: 18 },
    { name: "plateau", start_s: 20, end_s: 40 },
  ],
};

describe("the stretch that is heard", () => {
  it("lies around the cursor and stays within the test", () => {
    expect(stretchAt(CURVES, 25)).toEqual({ begin_s: 23, end_s: 27, rpm: 1000 });
    expect(stretchAt(CURVES, 0)).toEqual({ begin_s: 0, end_s: 4, rpm: null });
    expect(stretchAt(CURVES, 50).end_s).toBe(50);
  });
  it("is the middle of the longest time at full speed without a cursor", () => {
    expect(stretchAt(CURVES, null).begin_s).toBe(28);
    expect(stretchWords(stretchAt(CURVES, null))).toBe("4 s from 28.0 s, near 1000 rpm");
    expect(stretchWords(stretchAt(CURVES, 1))).toContain("not known");
  });
});

describe("ways to hear it", () => {
  it("offers another visit only where there is one", () => {
    expect(earWays(CURVES, null).some((way) => way.key === "beside")).toBe(false);
    const beside = earWays(CURVES, { job_id: "7", title: "Beside the weir", words: "the one at the weir" }).at(-1);
    expect(beside?.ask).toEqual({ way: "beside", beside: "7" });
    expect(beside?.says).toContain("weir");
  });
  it("puts the envelope of the bearing's own band on the tone", () => {
    const line = { bearing: "6306", race: "outer", order: 3.06, nominal_order: 3.05, ratio_db: 14, false_alarm: 1e-6 };
    const curves = { ...CURVES, envelope: { band_hz: [2500, 5000], order: [], ratio_db: [], lines: [line] } };
    const way = earWays(curves, null).find((found) => found.key === "envelope");
    expect(way?.ask).toEqual({ way: "envelope", low_hz: 2500, high_hz: 5000 });
    expect(way?.says).toContain("3.06 times a turn");
  });
  it("asks the server for exactly that", () => {
    const stretch = stretchAt(CURVES, 25);
    const url = new URL(listenUrl("3", beatWay(2, "2x", 900), stretch), "http://here");
    expect(url.pathname).toBe("/api/jobs/3/listen");
    expect(Object.fromEntries(url.searchParams)).toEqual({
      way: "beat",
      order: "2",
      begin_s: "23.000",
      end_s: "27.000",
    });
  });
  it("says how often a beat comes", () => {
    expect(beatWay(2, "2x", 900).says).toContain("30 a second");
    expect(beatWay(1, "1x", null).says).toBe("What comes 1 times a turn, as the beat of a tone.");
  });
  it("tells how far it was raised", () => {
    expect(raisedWords(17.6)).toBe("Raised by 18 dB to be heard.");
    expect(raisedWords(-3.2)).toBe("Lowered by 3 dB.");
    expect(raisedWords(0.4)).toBe("");
  });
});
