import type { Result } from "../../api/client";

type Measurements = Result["measurements"];

/** A figure by its code, and its value in words. */
export interface Figure {
  code: keyof Measurements & string;
  value: string;
}

function withError(
  value: number,
  sigma: number | null | undefined,
  digits: number,
  unit: string,
  hasSign = false,
): string {
  // A last digit that the error does not reach would be a claim; an error of nothing as well.
  const error = sigma != null ? ` ± ${Math.max(sigma, 10 ** -digits).toFixed(digits)}` : "";
  return `${hasSign ? signed(value, digits) : minus(value.toFixed(digits))}${error}${unit ? ` ${unit}` : ""}`;
}

/** With as many digits as its error leaves it; two that count where nobody knows the error. */
function asKnown(value: number, sigma: number | null | undefined, unit: string): string {
  if (sigma == null || sigma <= 0) return `${value.toPrecision(2)} ${unit}`;
  const digits = Math.min(4, Math.max(0, -Math.floor(Math.log10(sigma))));
  return withError(value, sigma, digits, unit);
}

function minus(text: string): string {
  return text.replace("-", "−");
}

/** The measured figures in words, each with its uncertainty and unit; absent ones are left out. */
export function figures(result: Result): Figure[] {
  const m = result.measurements;
  const out: Figure[] = [];
  const add = <K extends keyof Measurements & string>(
    code: K,
    write: (value: NonNullable<Measurements[K]>) => string | null,
  ) => {
    const value = m[code];
    const said = value == null ? null : write(value);
    if (said !== null) out.push({ code, value: said });
  };
  add("spin_rpm_max", (v) => withError(v, m.spin_rpm_max_sigma, v < 1000 ? 1 : 0, "rpm"));
  add("critical_rpm", (v) => withError(v, m.critical_rpm_sigma, 0, "rpm"));
  add("critical_rpm_peaks", (v) => `${v.map((rpm) => rpm.toFixed(0)).join(" and ")} rpm`);
  add("suspension_damping_ratio", (v) => withError(v, m.suspension_damping_ratio_sigma, 2, ""));
  add(
    "stop_hits",
    (v) => `${v > 0 ? `at least ${String(v)}` : "none"} in ${(m.stop_hits_turns ?? 0).toFixed(0)} turns`,
  );
  add("order_amplitudes_mm", (v) => {
    const once = v["1"];
    return once === undefined ? null : asKnown(once, m.order_amplitudes_mm_sigma?.["1"], "mm");
  });
  add("growth_exponent", (v) => withError(v, m.growth_exponent_sigma, 1, ""));
  add("impacts_per_rev", (v) => (v > 0 ? v.toFixed(0) : "none heard"));
  add("impact", impactWords);
  add("belt_slip_pct", (v) => withError(v, m.belt_slip_pct_sigma, 1, "%"));
  add("coast_down_s", (v) => withError(v, m.coast_down_s_sigma, 1, "s"));
  add("turns_to_rest", (v) => withError(v, m.turns_to_rest_sigma, 0, ""));
  add("noise_change_motor_off_db", (v) => withError(v, m.noise_change_motor_off_db_sigma, 1, "dB", true));
  add("level_db_per_doubling", (v) => withError(v, m.level_db_per_doubling_sigma, 1, "dB", true));
  add("ramp_s", (v) => `${v.toFixed(0)} s`);
  add("motor_running_a", (v) => withError(v, m.motor_running_a_sigma, 1, "A"));
  add("motor_starting_a", (v) => `${v.toFixed(1)} A`);
  add("hum_s", (v) => `${v.toFixed(0)} s`);
  add("level_a_dbfs", (v) => `${signed(v, 0)} dB(A) of full scale`);
  add("prominent_tone", (v) =>
    v.over_limit_db > 0
      ? `${v.hz.toFixed(0)} Hz, ${v.over_limit_db.toFixed(0)} dB over its limit`
      : `${v.hz.toFixed(0)} Hz, below its limit`,
  );
  add("sound_lag_s", (v) => withError(v, m.sound_lag_s_sigma, 2, "s"));
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
