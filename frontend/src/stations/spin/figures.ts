import type { Result } from "../../api/client";

export interface Figure {
  name: string;
  value: string;
}

function withError(value: number, sigma: number | null | undefined, digits: number, unit: string): string {
  const error = sigma != null ? ` ± ${sigma.toFixed(digits)}` : "";
  return `${value.toFixed(digits)}${error}${unit ? ` ${unit}` : ""}`;
}

/** The measured figures in words, each with its uncertainty and unit; absent ones are left out. */
export function figures(result: Result): Figure[] {
  const m = result.measurements;
  const out: Figure[] = [];
  const add = <V>(name: string, value: V | null | undefined, write: (v: V) => string) => {
    if (value != null) out.push({ name, value: write(value) });
  };
  add("Fastest spin", m.spin_rpm_max, (v) => `${v.toFixed(0)} rpm`);
  add("Critical speed", m.critical_rpm, (v) => withError(v, m.critical_rpm_sigma, 0, "rpm"));
  add("Both critical speeds", m.critical_rpm_peaks, (v) => `${v.map((rpm) => rpm.toFixed(0)).join(" and ")} rpm`);
  add("Suspension’s damping ratio", m.suspension_damping_ratio, (v) =>
    withError(v, m.suspension_damping_ratio_sigma, 2, ""),
  );
  add(
    "Impacts at the critical speed",
    m.stop_hits,
    (v) => `${v > 0 ? `at least ${String(v)}` : "none"} in ${(m.stop_hits_turns ?? 0).toFixed(0)} turns`,
  );
  add("Once-per-turn motion at full speed", m.order_amplitudes_mm?.["1"], (v) => `${v.toPrecision(2)} mm`);
  add("Knocks or ticks per turn", m.impacts_per_rev, (v) => (v > 0 ? v.toFixed(0) : "none heard"));
  add("One of those impacts", m.impact, impactWords);
  add("Belt slip", m.belt_slip_pct, (v) => withError(v, m.belt_slip_pct_sigma, 1, "%"));
  add("Coasts to rest in", m.coast_down_s, (v) => `${v.toFixed(1)} s`);
  add("Turns to rest", m.turns_to_rest, (v) => v.toFixed(0));
  add(
    "Noise with the motor off, at equal speed",
    m.noise_change_motor_off_db,
    (v) => `${v < 0 ? "−" : "+"}${Math.abs(v).toFixed(1)} dB`,
  );
  add(
    "Loudness for twice the speed",
    m.level_db_per_doubling,
    (v) => `${v < 0 ? "−" : "+"}${Math.abs(v).toFixed(0)} dB`,
  );
  add("Slow turning to full speed in", m.ramp_s, (v) => `${v.toFixed(0)} s`);
  add("Motor’s current, running", m.motor_running_a, (v) => withError(v, m.motor_running_a_sigma, 1, "A"));
  add("Motor’s current, at the start", m.motor_starting_a, (v) => `${v.toFixed(1)} A`);
  add("Hum at twice the mains", m.hum_s, (v) => `${v.toFixed(0)} s`);
  add("Loudness at full speed", m.level_a_dbfs, (v) => `${signed(v, 0)} dB(A) of full scale`);
  add("Most prominent tone", m.prominent_tone, (v) =>
    v.over_limit_db > 0
      ? `${v.hz.toFixed(0)} Hz, ${v.over_limit_db.toFixed(0)} dB over its limit`
      : `${v.hz.toFixed(0)} Hz, below its limit`,
  );
  add("Sound’s clock against vibration’s", m.sound_lag_s, (v) => withError(v, m.sound_lag_s_sigma, 2, "s"));
  return out;
}

/** Its pitch and how long it rings, as far as the impacts resemble one another. */
function impactWords(impact: NonNullable<Result["measurements"]["impact"]>): string {
  const alike = `${(100 * impact.likeness).toFixed(0)} % alike`;
  const pitch = impact.hz < 950 ? `${impact.hz.toFixed(0)} Hz` : `${(impact.hz / 1000).toFixed(1)} kHz`;
  const dies =
    impact.decay_ms === null ? "" : `, down 10 dB in ${impact.decay_ms.toFixed(impact.decay_ms < 10 ? 1 : 0)} ms`;
  return `${pitch}${dies}, ${alike}`;
}

function signed(value: number, digits: number): string {
  return `${value < 0 ? "−" : "+"}${Math.abs(value).toFixed(digits)}`;
}
