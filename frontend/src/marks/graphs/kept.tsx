import type { ComponentProps } from "react";

import type { Curves, Schemas } from "../../api/client";
import { DrumClock } from "../drawings/drum-clock";
import { Keepable } from "./keepable";
import { OrderCarpet } from "./order-carpet";
import { RaceComb } from "./race-comb";
import { envelopeTable, orderTable, turnTable } from "./tables";

/** Graphs that stand at more than one station, each with its menu. */

export function KeptRaceComb({ envelope }: { envelope: Schemas["EnvelopeOut"] }) {
  return (
    <Keepable name="Bearing lines" table={() => envelopeTable(envelope)}>
      <RaceComb envelope={envelope} />
    </Keepable>
  );
}

export function KeptDrumClock({
  curves,
  corners,
}: {
  curves: Curves;
  corners: ComponentProps<typeof DrumClock>["corners"];
}) {
  return (
    <Keepable name="Drum clock" table={() => turnTable(curves.turn_profile, curves.turn_motion)}>
      <DrumClock profile={curves.turn_profile} motion={curves.turn_motion} corners={corners} />
    </Keepable>
  );
}

export function KeptOrderCarpet({
  map,
  ...rest
}: { map: Schemas["OrderMapOut"] } & Omit<ComponentProps<typeof OrderCarpet>, "carpet">) {
  return (
    <Keepable name="Order carpet" table={() => orderTable(map)}>
      <OrderCarpet carpet={map} {...rest} />
    </Keepable>
  );
}
