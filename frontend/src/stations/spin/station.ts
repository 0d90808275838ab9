import { counted, type Station } from "../station";
import { Spin } from "./spin";

export const station: Station = {
  code: "spin",
  name: "Spin",
  kinds: ["recording", "recording_removed"],
  tag: (job) => {
    const spins = job.recordings.filter((r) => r.test === "spin").length;
    return { words: spins > 0 ? counted(spins, "recording") : "not recorded", done: spins > 0 };
  },
  Page: Spin,
};
