import { Glyph } from "./glyph";

const BASE = 24;

/** A burst that dies, as a line about the middle. */
function burst(at: number, height: number): string {
  return `M${String(at)} ${String(BASE - height)} V${String(BASE + height)} M${String(at + 3)} ${String(BASE - 0.5 * height)} V${String(BASE + 0.5 * height)} M${String(at + 6)} ${String(BASE - 0.2 * height)} V${String(BASE + 0.2 * height)}`;
}

/** What each noise looks like over a second or two: its beat and how rough it is. */
const DRAWN: Readonly<Record<string, string>> = {
  whine_in_spin: "M4 24 q2 -9 4 0 t4 0 t4 0 t4 0 t4 0 t4 0 t4 0 t4 0 t4 0 t4 0 t4 0 t4 0 t4 0 t4 0",
  growl_in_spin: "M4 24 q4 -16 8 0 t8 0 t8 0 t8 0 t8 0 t8 0 t8 0",
  roar_rises_with_speed:
    "M4 24 l3 -3 l3 5 l3 -6 l3 8 l3 -9 l3 11 l3 -13 l3 15 l3 -17 l3 20 l3 -22 l3 25 l3 -28 l3 30 l3 -32 l3 34 l3 -36 l3 38 l4 -20",
  thump_in_spin: `M4 24 H60 ${burst(12, 18)} ${burst(32, 18)} ${burst(52, 18)}`,
  bang_at_spin_start: `M4 24 H60 ${burst(10, 21)} ${burst(22, 9)}`,
  clank_metal: `M4 24 H60 ${burst(16, 20)} ${burst(20, 15)} ${burst(44, 20)}`,
  grinding:
    "M4 24 l2 -14 l3 25 l2 -20 l3 18 l3 -24 l2 27 l3 -18 l3 14 l2 -22 l3 26 l3 -20 l2 16 l3 -18 l3 22 l2 -26 l3 24 l3 -14 l3 9 l2 -5 l3 3",
  scrape_or_tick: `M4 24 H60 ${burst(8, 10)} ${burst(20, 10)} ${burst(32, 10)} ${burst(44, 10)} ${burst(56, 10)}`,
  tapping: `M4 24 H60 ${burst(7, 9)} ${burst(15, 13)} ${burst(31, 8)} ${burst(36, 12)} ${burst(53, 10)}`,
  squeal: "M4 24 H18 q1.5 -18 3 0 t3 0 t3 0 t3 0 t3 0 t3 0 t3 0 t3 0 H60",
};

/** A noise, drawn beside its name. */
export function NoiseDrawing({ symptom }: { symptom: string }) {
  return <Glyph lines={DRAWN[symptom]} />;
}
