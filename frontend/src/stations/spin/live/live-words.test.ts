import { describe, expect, it } from "vitest";

import type { Schemas } from "../../../api/client";
import { adviceWords, speedWords } from "./live-words";

type Reading = Schemas["LiveReadingOut"];
const parts = (seen: number[]): Reading["parts"] =>
  (["rest_before", "ramp", "full_speed", "coast_down", "rest_after"] as const).map((name, i) => ({
    name,
    seen_s: seen[i] ?? 0,
    needed_s: 2,
  }));
const reading = (change: Partial<Reading>): Reading => ({
  t_s: 1,
  level_db: -30,
  speed: null,
  shake_m_s2: 0.1,
  shake: "calm",
  must_stop: false,
  is_clipped: false,
  phase: "listening",
  parts: parts([]),
  ...change,
});
const speed = { rpm: 812.4, sigma_rpm: 22.1, is_steady: false, is_felt: true };

describe("speedWords", () => {
  it("tells a speed with its error, and doubts as doubts", () => {
    expect(speedWords(reading({ speed }))).toEqual({ rpm: "812", beside: "rpm ± 22" });
    expect(speedWords(reading({ speed: { ...speed, is_felt: false } })).rpm).toBe("812?");
    expect(speedWords(reading({ speed: { ...speed, is_steady: true } })).beside).toContain("beside");
    expect(speedWords(null).rpm).toBe("–");
  });
});

describe("adviceWords", () => {
  it("puts danger first, then the recording, then what the test lacks", () => {
    expect(adviceWords(reading({ must_stop: true, is_clipped: true }))).toContain("Stop the spin");
    expect(adviceWords(reading({ is_clipped: true }))).toContain("Too loud");
    expect(adviceWords(reading({}))).toContain("quiet room");
    expect(adviceWords(reading({ parts: parts([3, 3, 0.5]) }))).toBe("Is this full speed? Hold it for 2 s more.");
    expect(adviceWords(reading({ parts: parts([3, 3, 3]) }))).toContain("coast");
    expect(adviceWords(reading({ parts: parts([3, 3, 3, 3, 3]) }))).toContain("full test");
  });
});
