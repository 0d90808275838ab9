import type { ComponentType } from "react";

import type { CheckSpec, Job, Judged } from "../../api/client";
import { ClockGaps } from "./enter/clock-gaps";
import { HeardStates } from "./enter/heard-states";
import { Levels } from "./enter/levels";
import { PadFields } from "./enter/pad-fields";
import { CornersOff, FourFeet } from "./enter/plan";
import { Pluck } from "./enter/pluck";
import { States } from "./enter/states";
import { Stopwatch } from "./enter/stopwatch";
import { Swings } from "./enter/swings";
import { FeelAndTurns } from "./enter/feel";
import type { Typed } from "./values";

/** `done` : the same check as it was made before; `onDone` : what was entered is complete, and is to be kept. */
export type WidgetProps = {
  check: CheckSpec;
  typed: Typed;
  judged: Judged | undefined;
  done: Job["checks"];
  onChange: (typed: Typed) => void;
  onDone: (typed: Typed) => void;
};

/** What a check's values are entered with, by the name that its knowledge gives; a new one takes its place here. */
export const WIDGETS: Record<CheckSpec["widget"], ComponentType<WidgetProps>> = {
  clock_gaps: ClockGaps,
  corners: CornersOff,
  feel: FeelAndTurns,
  four_feet: FourFeet,
  heard_states: HeardStates,
  levels: Levels,
  meter: PadFields,
  millimetres: PadFields,
  minutes: Stopwatch,
  pluck: Pluck,
  states: States,
  swings: Swings,
  yes_no: States,
};

/** Those that keep by themselves what is complete after one tap. */
export function keepsItself(check: CheckSpec): boolean {
  return (
    check.widget === "levels" ||
    (["heard_states", "states", "yes_no"].includes(check.widget) && check.values.length === 1)
  );
}
