import { Glyph } from "./glyph";

const BELT = "M4 14 H60 M4 34 H60";
const ARMS = "M32 24 L32 6 M32 24 L48 34 M32 24 L16 34 M32 4 a20 20 0 1 0 0.1 0 Z";
const PADS = "M8 16 H56 V26 H8 Z M4 32 H60 V40 H4 Z";
const SLEEVE = "M18 8 H46 V22 H18 Z M24 22 V42 M40 22 V42";
const GAP = "M6 6 V42 M58 6 V42 M18 6 V42 M46 6 V42";
const TUB = "M10 6 V34 Q10 40 16 40 H48 Q54 40 54 34 V6";

/** Each state of a look as a few lines, by check and state; what has none is said in words alone. */
const DRAWN: Readonly<Record<string, string>> = {
  "belt_look.good": BELT,
  "belt_look.cracked": `${BELT} M14 14 V22 M24 14 V20 M36 14 V23 M48 14 V20 M18 34 V27 M42 34 V28`,
  "belt_look.glazed": `${BELT} M10 20 L18 28 M24 20 L32 28 M38 20 L46 28`,
  "belt_look.frayed": `${BELT} M8 34 L4 42 M18 34 L16 43 M30 34 L31 43 M42 34 L45 42 M54 34 L60 41`,
  "belt_look.off": "M14 24 a10 10 0 1 0 0.1 0 Z M46 12 a6 6 0 1 0 0.1 0 Z M26 44 Q40 30 58 42",
  "residue.none": "M10 24 L26 40 L54 8",
  "residue.rear_below_bearing": "M32 4 a12 12 0 1 0 0.1 0 Z M32 30 V44 M27 32 Q24 40 26 44 M37 32 Q40 40 38 44",
  "residue.clutch_bell": "M20 6 H44 L52 34 H12 Z M24 40 l-3 6 M33 40 l-1 6 M42 40 l3 6",
  "residue.under_gearcase": "M14 6 H50 V26 H14 Z M20 32 q-5 8 0 10 q5 -2 0 -10 M42 32 q-5 8 0 10 q5 -2 0 -10",
  "foreign_sweep.nothing": GAP,
  "foreign_sweep.object": `${GAP} M28 22 a5 5 0 1 0 8 0 a5 5 0 1 0 -8 0`,
  "foreign_sweep.fabric": `${GAP} M22 12 q8 6 18 0 q-6 10 0 18 q-8 -4 -18 4 q6 -10 0 -22`,
  "foreign_sweep.burr": `${GAP} M46 20 L36 24 L46 28`,
  "load_seen.mixed": `${TUB} M18 34 q6 -8 12 0 M30 34 q7 -10 16 0 M22 24 q6 -7 12 0 M36 24 q4 -6 9 0`,
  "load_seen.single_heavy": `${TUB} M14 36 Q14 18 30 20 Q36 30 32 37`,
  "load_seen.mat_or_blanket": `${TUB} M14 22 H50 M14 22 V34 M50 22 V34`,
  "load_seen.overfilled": `${TUB} M8 10 q8 -10 16 0 q8 -12 16 0 q8 -10 16 0 M16 20 H48 M16 29 H48`,
  "spider_look.sound": ARMS,
  "spider_look.eaten": `${ARMS} M22 20 a3 3 0 1 0 0.1 0 M40 22 a4 4 0 1 0 0.1 0 M30 34 a3 3 0 1 0 0.1 0`,
  "spider_look.cracked": `${ARMS} M26 14 L31 17 L27 20 L37 22`,
  "clutch_look.good": `${PADS} M16 16 V26 M28 16 V26 M40 16 V26`,
  "clutch_look.glazed": `${PADS} M14 19 L20 23 M28 19 L34 23 M42 19 L48 23`,
  "clutch_look.worn_out": "M8 22 H56 V26 H8 Z M4 32 H60 V40 H4 Z M8 10 V18 M56 10 V18",
  "clutch_look.wet_with_rust": `${PADS} M18 2 q-5 8 0 10 q5 -2 0 -10 M32 2 q-5 8 0 10 q5 -2 0 -10 M46 2 q-5 8 0 10 q5 -2 0 -10`,
  "collar_look.clean": SLEEVE,
  "collar_look.gritty": `${SLEEVE} M12 30 h1 M18 36 h1 M30 28 h1 M34 36 h1 M46 30 h1 M52 37 h1 M29 40 h1`,
  "collar_look.spring_weak": `${SLEEVE} M26 26 L38 30 L26 38 L38 42`,
  "hub_look.sharp": "M4 36 L12 12 L20 36 L28 12 L36 36 L44 12 L52 36 L60 12",
  "hub_look.rounded": "M4 34 Q12 12 20 34 Q28 12 36 34 Q44 12 52 34 Q58 18 60 16",
  "hub_look.stripped": "M4 32 Q18 27 32 32 T60 31 M14 40 h2 M30 42 h2 M46 40 h2",
  "shift_sound.shifts": "M6 34 H26 V14 H58 M46 6 L58 14 L46 22",
  "shift_sound.half_shift": "M6 34 H26 V24 H58 M38 12 V36",
  "shift_sound.no_shift": "M6 34 H58 M22 10 L40 28 M40 10 L22 28",
  "hand_turn.smooth": "M4 24 H60",
  "hand_turn.rumble": "M4 24 q4 -8 8 0 t8 0 t8 0 t8 0 t8 0 t8 0 t8 0",
  "hand_turn.grinding":
    "M4 24 l3 -12 l4 22 l3 -18 l4 16 l4 -20 l3 24 l4 -16 l4 12 l3 -20 l4 24 l4 -18 l3 14 l4 -16 l5 8",
  "hand_turn.binds": "M4 24 H30 M32 8 V40 M38 8 V40",
  "hand_turn.scrapes_once_per_turn": "M4 28 H20 L24 8 L28 28 H60 M56 20 a24 16 0 0 1 -40 14",
  "coupler_look.no": "M6 14 H26 V34 H6 Z M38 14 H58 V34 H38 Z M26 20 H38 M26 28 H38",
  "coupler_look.yes":
    "M6 14 H24 L20 22 L26 28 L22 34 H6 Z M42 14 H58 V34 H40 L44 26 L38 20 Z M30 40 h2 M34 44 h2 M28 46 h2",
  "pump_clear.no": "M32 6 a18 18 0 1 0 0.1 0 Z M32 24 V10 M32 24 L44 31 M32 24 L20 31",
  "pump_clear.yes": "M32 6 a18 18 0 1 0 0.1 0 Z M18 30 q8 -18 16 -4 q8 10 14 -8 M22 36 q10 -8 22 -2",
  "smell.yes": "M18 42 q-9 -9 0 -18 q9 -9 0 -18 M32 42 q-9 -9 0 -18 q9 -9 0 -18 M46 42 q-9 -9 0 -18 q9 -9 0 -18",
  "smell.no": "M10 24 H54",
};

/** A state of a look, drawn beside its name. */
export function StateDrawing({ check, value }: { check: string; value: string }) {
  return <Glyph lines={DRAWN[`${check}.${value}`]} />;
}
