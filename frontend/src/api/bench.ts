import { useQuery } from "@tanstack/react-query";

import { client, type Schemas, unwrap } from "./client";
import { keys } from "./keys";

/** Washers that take up an axial play; nothing is asked before it was measured. */
export function useShims(measured: Schemas["ShimsIn"] | null) {
  return useQuery({
    queryKey: keys.bench("shims", measured),
    enabled: measured !== null,
    queryFn: async () => unwrap(await client.POST("/api/bench/shims", { body: measured ?? { axial_play_mm: 0 } })),
    retry: false,
    meta: { saidInPlace: true },
  });
}

/** What an added mass pulls with at speed. */
export function useAddedMass(mass: Schemas["AddedMassIn"] | null) {
  return useQuery({
    queryKey: keys.bench("added-mass", mass),
    enabled: mass !== null,
    queryFn: async () =>
      unwrap(await client.POST("/api/bench/added-mass", { body: mass ?? { mass_g: 0, radius_mm: 0, spin_rpm: 0 } })),
    retry: false,
    meta: { saidInPlace: true },
  });
}
