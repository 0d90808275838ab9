import { describe, expect, it } from "vitest";

import type { Result } from "../../api/client";
import { figures } from "./figures";

function shown(measurements: Partial<Result["measurements"]>): Record<string, string> {
  const result = { measurements } as Result;
  return Object.fromEntries(figures(result).map((figure) => [figure.name, figure.value]));
}

describe("figures", () => {
  it("leaves out what was not measured", () => {
    expect(shown({})).toEqual({});
  });

  it("tells what a impact sounds like", () => {
    const impact = { band: "tick", count: 24, hz: 3120.4, decay_ms: 1.14, likeness: 0.852 };
    expect(shown({ impact })["One of those impacts"]).toBe("3.1 kHz, down 10 dB in 1.1 ms, 85 % alike");
    expect(shown({ impact: { ...impact, hz: 310, decay_ms: null } })["One of those impacts"]).toBe(
      "310 Hz, 85 % alike",
    );
  });

  it("writes errors and signs", () => {
    const found = shown({
      critical_rpm: 214.2,
      critical_rpm_sigma: 6.1,
      critical_rpm_peaks: [144.2, 250.7],
      sound_lag_s: -0.42,
      sound_lag_s_sigma: 0.03,
      level_a_dbfs: -31.4,
      prominent_tone: { hz: 812.4, ratio_db: 14, over_limit_db: -3.2 },
    });
    expect(found["Critical speed"]).toBe("214 ± 6 rpm");
    expect(found["Both critical speeds"]).toBe("144 and 251 rpm");
    expect(found["Sound’s clock against vibration’s"]).toBe("-0.42 ± 0.03 s");
    expect(found["Loudness at full speed"]).toBe("−31 dB(A) of full scale");
    expect(found["Most prominent tone"]).toBe("812 Hz, below its limit");
  });
});
