import { describe, expect, it } from "vitest";

import type { Curves } from "../../api/client";
import { csvOf } from "../../lib/graph-file";
import { orderTable, speedTable, turnTable } from "./tables";

describe("numbers behind graphs", () => {
  it("quotes what would break a row, and leaves unknown cells empty", () => {
    const table = {
      head: ["name", "value"],
      rows: [
        ['said "so", twice', null],
        ["plain", -1.5],
      ],
    };
    expect(csvOf(table)).toBe('name,value\r\n"said ""so"", twice",\r\nplain,-1.5\r\n');
  });

  it("names the phase of each moment of the speed", () => {
    const phases = [{ name: "ramp", start_s: 0, end_s: 1 }];
    const curves = { t_s: [0.5, 1.5], rpm: [300, null], sigma_rpm: [2, null], phases } as unknown as Curves;
    expect(speedTable(curves).rows).toEqual([
      [0.5, 300, 2, "ramp"],
      [1.5, null, null, null],
    ]);
  });

  it("has a row for each band of speed of the order carpet and a column for each order", () => {
    const table = orderTable({ order_step: 0.5, rpm_edges: [100, 200], db: [[1, 2, null]] });
    expect(table.head).toEqual(["from_rpm", "to_rpm", "order_0.50_db", "order_1.00_db", "order_1.50_db"]);
    expect(table.rows).toEqual([[100, 200, 1, 2, null]]);
  });

  it("lays sound and motion over the same angles where one is finer", () => {
    const profile = { band: "low", per_turn: 1, peak_db: 3, profile_db: [1, 2] };
    const motion = { speed_rpm: 900, axis: "x", profile_mm: [5, 6, 7, 8], orders_mm: {}, orders_mm_sigma: {} };
    expect(turnTable(profile, motion).rows).toEqual([
      [0, 1, 5],
      [90, 1, 6],
      [180, 2, 7],
      [270, 2, 8],
    ]);
    expect(turnTable(null, null).rows).toEqual([]);
  });
});
