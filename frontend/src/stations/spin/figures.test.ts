import { describe, expect, it } from "vitest";

import type { Result } from "../../api/client";
import { figures } from "./figures";

function shown(measurements: Partial<Result["measurements"]>): Record<string, string> {
  const result = { measurements } as Result;
  return Object.fromEntries(figures(result).map((figure) => [figure.code, figure.value]));
}

describe("figures", () => {
  it("leaves out what was not measured", () => {
    expect(shown({})).toEqual({});
  });

  it("tells what a impact sounds like", () => {
    const impact = { band: "tick", count: 24, hz: 3120.4, decay_ms: 1.14, likeness: 0.852 };
    expect(shown({ impact }).impact).toBe("3.1 kHz, down 10 dB in 1.1 ms, 85 % alike");
    expect(shown({ impact: { ...impact, hz: 310, decay_ms: null } }).impact).toBe("310 Hz, 85 % alike");
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
    expect(found.critical_rpm).toBe("214 ± 6 rpm");
    expect(found.critical_rpm_peaks).toBe("144 and 251 rpm");
    expect(found.sound_lag_s).toBe("−0.42 ± 0.03 s");
    expect(found.level_a_dbfs).toBe("−31 dB(A) of full scale");
    expect(found.prominent_tone).toBe("812 Hz, below its limit");
  });

  it("claims no digit that the error does not reach, and no error of nothing", () => {
    const found = shown({
      spin_rpm_max: 1187.3,
      spin_rpm_max_sigma: 0.2,
      order_amplitudes_mm: { "1": 0.70912 },
      order_amplitudes_mm_sigma: { "1": 0.0124 },
      noise_change_motor_off_db: -3.21,
      noise_change_motor_off_db_sigma: 0.5,
      coast_down_s: 17.12,
    });
    expect(found.spin_rpm_max).toBe("1187 ± 1 rpm");
    expect(found.order_amplitudes_mm).toBe("0.71 ± 0.01 mm");
    expect(found.noise_change_motor_off_db).toBe("−3.2 ± 0.5 dB");
    expect(found.coast_down_s).toBe("17.1 s");
    expect(shown({ order_amplitudes_mm: { "1": 0.0153 } }).order_amplitudes_mm).toBe("0.015 mm");
    expect(shown({ order_amplitudes_mm: {} })).toEqual({});
  });
});
