import type { CheckSpec } from "../../api/client";

export type Act = CheckSpec["act"];

/** What hands do, in words for whoever cannot see the drawing. */
export const ACT_WORDS: Record<Act, string> = {
  along: "pushed and pulled along the shaft",
  fill: "filled in stages",
  height: "its height read",
  lift: "lifted and let down",
  listen: "listened to",
  look: "looked at",
  measure: "measured with a meter",
  pluck: "plucked",
  press: "pressed",
  push_down: "pushed down and let go",
  rock: "rocked from corner to corner",
  smell: "smelt at",
  try: "tried by hand",
  turn: "turned by hand",
  twist: "held below, twisted above",
  wait: "timed",
};

type Point = readonly [number, number];
const FRONT_AT: Record<string, Point> = {
  drum: [140, 158],
  rim: [92, 100],
  tub: [140, 158],
  feet: [150, 240],
  corners: [140, 66],
  door: [34, 158],
  hub: [214, 158],
  under: [150, 250],
  rear: [248, 150],
  pump: [104, 252],
};
const TOP_AT: Record<string, Point> = {
  drum: [147, 160],
  rim: [147, 97],
  tub: [147, 165],
  feet: [150, 240],
  corners: [147, 130],
  lid: [142, 67],
  centre: [147, 150],
  hub: [147, 213],
  under: [160, 246],
  rear: [248, 150],
  pump: [226, 254],
};

/** The movement as arrows at its place. A drum's axis lies in a front loader and stands in a top loader. */
export function ActMark({ act, place, front }: { act: Act; place: string; front: boolean }) {
  const [x, y] = (front ? FRONT_AT : TOP_AT)[place] ?? [150, 150];
  return (
    <g
      transform={`translate(${String(x)} ${String(y)})`}
      fill="none"
      stroke="var(--persimmon)"
      strokeWidth="4.5"
      strokeLinecap="round"
      strokeLinejoin="round"
    >
      <Arrows act={act} front={front} />
    </g>
  );
}

const UP_AND_DOWN = "M0 -34 V34 M-8 -25 L0 -34 L8 -25 M-8 25 L0 34 L8 25";
const TO_AND_FRO = "M-34 0 H34 M-25 -8 L-34 0 L-25 8 M25 -8 L34 0 L25 8";
const DOWN = "M0 -44 V-6 M-9 -16 L0 -6 L9 -16";

function Arrows({ act, front }: { act: Act; front: boolean }) {
  switch (act) {
    case "turn":
      return <path d="M24 -14 A28 28 0 1 0 28 4 M18 -26 L25 -13 L11 -10" />;
    case "twist":
      return (
        <path d="M-26 -22 A34 12 0 0 1 26 -22 M17 -31 L26 -22 L15 -18 M26 20 A34 12 0 0 1 -26 20 M-15 26 L-26 20 L-17 12" />
      );
    case "along":
      return <path d={front ? TO_AND_FRO : UP_AND_DOWN} />;
    case "lift":
      return <path d={front ? UP_AND_DOWN : TO_AND_FRO} />;
    case "push_down":
    case "press":
      return <path d={DOWN} transform={act === "press" && front ? "rotate(-90)" : "translate(0 -20)"} />;
    case "rock":
      return <path d="M-88 34 V8 M-96 17 L-88 8 L-80 17 M86 8 V34 M78 25 L86 34 L94 25" />;
    case "height":
      return <path d="M-62 -20 V20 M-70 -20 H-54 M-70 20 H-54 M62 -20 V20 M54 -20 H70 M54 20 H70" />;
    case "look":
      return <path d="M-30 0 Q0 -26 30 0 Q0 26 -30 0 M-8 0 a8 8 0 1 0 16 0 a8 8 0 1 0 -16 0" />;
    case "listen":
      return <path d="M-10 -12 A16 16 0 0 1 -10 12 M2 -22 A28 28 0 0 1 2 22 M14 -32 A42 42 0 0 1 14 32" />;
    case "measure":
      return <path d="M-26 -40 L-8 -2 M26 -40 L8 -2 M-30 -54 h8 v14 h-8 Z M22 -54 h8 v14 h-8 Z" />;
    case "pluck":
      return <path d="M0 -36 Q16 -18 0 0 Q-16 18 0 36 M-22 0 H-8 M8 0 H22" />;
    case "smell":
      return (
        <path d="M-18 14 q-9 -12 0 -24 q9 -12 0 -24 M0 14 q-9 -12 0 -24 q9 -12 0 -24 M18 14 q-9 -12 0 -24 q9 -12 0 -24" />
      );
    case "try":
      return <path d="M-30 -8 L-14 8 M-30 8 L-14 -8 M14 -8 L30 8 M14 8 L30 -8" />;
    case "fill":
      return <path d="M-58 -96 V-6 M-66 -16 L-58 -6 L-50 -16 M-40 -20 q10 -8 20 0 t20 0 t20 0 t20 0" />;
    case "wait":
      return <path d="M0 -26 a26 26 0 1 0 0.1 0 Z M0 -14 V0 L10 8" />;
    default: {
      const never: never = act;
      return never;
    }
  }
}
