import type { Station } from "../station";
import { Strip } from "./strip";

export const station: Station = {
  code: "strip",
  name: "Strip",
  kinds: ["stands", "step", "counted", "compared", "seen"],
  tag: (job) => {
    const off = job.strip.steps.filter((s) => s.way === "off" && s.state === "done").length;
    const on = job.strip.steps.filter((s) => s.way === "on" && s.state === "done").length;
    if (off === 0) return { words: "not opened", done: false };
    return { words: on > 0 ? `${String(off)} off, ${String(on)} back` : `${String(off)} off`, done: true };
  },
  Page: Strip,
};
