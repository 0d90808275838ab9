import type { Curves, DecisionData, Option, RecordData, Schemas, Suspect } from "../../api/client";
import type { Table } from "../../lib/graph-file";

/** The numbers behind each graph, as they are kept. */

export function speedTable(curves: Curves): Table {
  const phaseAt = (t: number | null) =>
    t === null ? null : (curves.phases.find((p) => p.start_s <= t && t < p.end_s)?.name ?? null);
  return {
    head: ["t_s", "rpm", "sigma_rpm", "phase"],
    rows: curves.t_s.map((t, k) => [t, curves.rpm[k] ?? null, curves.sigma_rpm[k] ?? null, phaseAt(t)]),
  };
}

export function orderTable({ db, order_step, rpm_edges }: Schemas["OrderMapOut"]): Table {
  const orders = (db[0] ?? []).map((_, j) => `order_${((j + 1) * order_step).toFixed(2)}_db`);
  return {
    head: ["from_rpm", "to_rpm", ...orders],
    rows: db.map((row, i) => [rpm_edges[i] ?? null, rpm_edges[i + 1] ?? null, ...row]),
  };
}

export function envelopeTable({ order, ratio_db }: Schemas["EnvelopeOut"]): Table {
  return { head: ["order", "over_floor_db"], rows: order.map((o, k) => [o, ratio_db[k] ?? null]) };
}

export function turnTable(
  profile: Schemas["TurnProfileOut"] | null | undefined,
  motion: Schemas["TurnMotionOut"] | null | undefined,
): Table {
  const count = Math.max(profile?.profile_db.length ?? 0, motion?.profile_mm.length ?? 0);
  // Either may be finer than the other: each row is an angle of the finer one.
  const at = <T>(values: readonly T[] | undefined, k: number) =>
    values && values.length > 0 ? (values[Math.floor((k * values.length) / count)] ?? null) : null;
  return {
    head: ["angle_deg", "sound_db", "motion_mm"],
    rows: Array.from({ length: count }, (_, k) => [
      Number(((360 * k) / count).toFixed(2)),
      at(profile?.profile_db, k),
      at(motion?.profile_mm, k),
    ]),
  };
}

export function bandsTable({ bands }: Schemas["ComparisonOut"]): Table {
  return { head: ["hz", "db", "sigma_db"], rows: bands.map((b) => [b.centre_hz, b.db, b.sigma_db]) };
}

export function standingTable(bins: RecordData["bins"]): Table {
  return {
    head: ["said_from", "said_to", "said_mean", "right", "of", "low", "high"],
    rows: bins.map((b) => [b.low, b.high, b.said, b.right.hits, b.right.of, b.right.low, b.right.high]),
  };
}

export function suspectsTable(suspects: readonly Suspect[]): Table {
  return {
    head: ["fault", "probability", "finding", "weight_db", "source", "level"],
    rows: suspects.flatMap((s) => [
      [s.fault, s.probability, null, null, null, null],
      ...s.evidence.map((e) => [s.fault, null, e.finding, e.weight_db, e.source, e.level]),
    ]),
  };
}

export function changesTable(changes: readonly Schemas["Change"][]): Table {
  return {
    head: ["finding", "unit", "before", "after", "sigma_of_difference", "clear", "healthy_before", "healthy_after"],
    rows: changes.map((c) => [
      c.finding,
      c.unit,
      c.before,
      c.after,
      c.sigma,
      String(c.clear),
      String(c.healthy_before),
      String(c.healthy_after),
    ]),
  };
}

export function choicesTable(choices: DecisionData["choices"]): Table {
  return {
    head: ["action", "fault_or_check", "minutes", "wrong", "spent_minor", "lost_minor", "total_minor", "currency"],
    rows: choices.map((c) => [
      c.action,
      c.fault ?? c.check,
      c.minutes,
      c.wrong,
      c.spent.minor,
      c.lost.minor,
      c.total.minor,
      c.total.currency,
    ]),
  };
}

export function optionsTable(options: readonly Option[]): Table {
  return {
    head: ["option", "line", "low_minor", "high_minor", "currency"],
    rows: options.flatMap((o) => [
      ...o.lines.map((line) => [
        o.code,
        line.kind,
        line.amount.low.minor,
        line.amount.high.minor,
        line.amount.low.currency,
      ]),
      [o.code, "total", o.total.low.minor, o.total.high.minor, o.total.low.currency],
    ]),
  };
}

export function gapsTable(gaps: readonly (number | null)[]): Table {
  return { head: ["clock_deg", "gap_mm"], rows: gaps.map((gap, k) => [(360 * k) / gaps.length, gap]) };
}
