import { percent } from "../../lib/format";
import type { Station } from "../station";
import { Call } from "./call";

const ADVICE: Record<string, (sure: string) => string> = {
  commit: (sure) => `${sure}, open it`,
  check_more: (sure) => `${sure}, check first`,
  no_teardown: (sure) => `${sure}, leave it`,
  record_again: () => "record first",
};

export const station: Station = {
  code: "call",
  name: "Call",
  kinds: ["set_aside", "called"],
  tag: ({ call }) =>
    call
      ? { words: ADVICE[call.advice]?.(percent(call.leader_probability)) ?? "called", done: true }
      : { words: "no call", done: false },
  Page: Call,
};
