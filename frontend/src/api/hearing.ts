import { useMutation } from "@tanstack/react-query";

import { client, type Schemas, unwrap } from "./client";

/** The pitch of a belt that was plucked near this device. */
export function useHearPluck() {
  return useMutation({
    mutationFn: async (heard: Schemas["HeardIn"]) => unwrap(await client.POST("/api/hear/pluck", { body: heard })),
    meta: { saidInPlace: true },
  });
}

/** How the tub on which this device lies swung out. */
export function useFeelBounce() {
  return useMutation({
    mutationFn: async (felt: Schemas["FeltIn"]) => unwrap(await client.POST("/api/feel/bounce", { body: felt })),
    meta: { saidInPlace: true },
  });
}

/** How rough a drum sounds that is turned by hand, and whether something comes back once a turn. */
export function useHearHandTurn() {
  return useMutation({
    mutationFn: async (heard: Schemas["HeardIn"]) => unwrap(await client.POST("/api/hear/hand-turn", { body: heard })),
    meta: { saidInPlace: true },
  });
}

/** How fast a flicked drum slows, by a tap at each turn. */
export function useFeelFlick() {
  return useMutation({
    mutationFn: async (tapped: Schemas["FlickIn"]) => unwrap(await client.POST("/api/feel/flick", { body: tapped })),
    meta: { saidInPlace: true },
  });
}
