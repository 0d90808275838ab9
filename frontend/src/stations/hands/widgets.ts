import type { ComponentType } from "react";

import type { CheckSpec } from "../../api/client";
import { Fields } from "./fields";
import type { Typed } from "./values";

export type WidgetProps = { check: CheckSpec; typed: Typed; onChange: (typed: Typed) => void };

/** What a check's values are entered with, by the name that its knowledge gives; a new one takes its place here. */
export const WIDGETS: Record<CheckSpec["widget"], ComponentType<WidgetProps>> = {
  clock_gaps: Fields,
  corners: Fields,
  feel: Fields,
  four_feet: Fields,
  levels: Fields,
  meter: Fields,
  millimetres: Fields,
  minutes: Fields,
  pluck: Fields,
  states: Fields,
  swings: Fields,
  yes_no: Fields,
};
