import { counted, type Station } from "../station";
import { CheckPage } from "./check-page";
import { Hands } from "./hands";

export const station: Station = {
  code: "hands",
  name: "Hands",
  kinds: ["check"],
  tag: (job) => {
    const done = job.checks.length > 0;
    return { words: done ? counted(job.checks.length, "check") : "no checks", done };
  },
  Page: Hands,
  Detail: { path: ":check", Page: CheckPage },
};
