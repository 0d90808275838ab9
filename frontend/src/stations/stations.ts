import { station as call } from "./call/station";
import { station as cost } from "./cost/station";
import { station as hands } from "./hands/station";
import { station as proof } from "./proof/station";
import { station as spin } from "./spin/station";
import type { Station } from "./station";
import { station as story } from "./story/station";
import { station as strip } from "./strip/station";

/** The seven stations in the order of the walk. */
export const STATIONS: readonly Station[] = [story, hands, spin, call, cost, strip, proof];
