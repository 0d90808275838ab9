import { describe, expect, it } from "vitest";

import type { Reading } from "./line";
import { type Live, liveAfter } from "./live-state";

const reading = (t_s: number, rpm: number | null, is_steady = false): Reading => ({
  t_s,
  level_db: -30,
  speed: rpm === null ? null : { rpm, sigma_rpm: 5, is_steady, is_felt: true },
  shake_m_s2: null,
  shake: null,
  must_stop: false,
  is_clipped: false,
  phase: "listening",
  parts: [],
});
const began = liveAfter(liveAfter({ status: "idle" }, { kind: "asked" }), { kind: "began" });

describe("liveAfter", () => {
  it("keeps a thinned trace, with gaps where the speed is not known", () => {
    const readings = [reading(1, null), reading(1.1, 300), reading(1.3, 310), reading(1.6, 900, true)];
    const live = liveAfter(began, { kind: "read", readings });
    expect(live).toMatchObject({
      status: "recording",
      trace: [
        { t_s: 1, rpm: null },
        { t_s: 1.3, rpm: 310 },
        { t_s: 1.6, rpm: null },
      ],
    });
    expect(live.status === "recording" ? live.reading?.t_s : 0).toBe(1.6);
  });
  it("loses nothing when it is told late", () => {
    const idle: Live = { status: "idle" };
    expect(liveAfter(idle, { kind: "read", readings: [reading(1, 200)] })).toBe(idle);
    expect(liveAfter(idle, { kind: "passed", seconds: 3, isHeard: true })).toBe(idle);
    expect(
      liveAfter(liveAfter(began, { kind: "not kept" }), { kind: "passed", seconds: 2, isHeard: true }),
    ).toMatchObject({ isKept: false, seconds: 2, isHeard: true });
  });
});
