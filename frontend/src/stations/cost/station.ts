import type { Station } from "../station";
import { Cost } from "./cost";

const SAID: Record<string, string> = {
  yes: "agreed, signed",
  no: "declined",
  wait: "wait, dated",
  scrap: "to be scrapped",
};

export const station: Station = {
  code: "cost",
  name: "Cost",
  kinds: ["priced", "renewed_too", "offered", "decided"],
  tag: (job) => {
    const answer = job.cost.decided?.["answer"];
    if (answer === "yes" && job.stock.taken_in !== null) return { words: "decided", done: true };
    return { words: typeof answer === "string" ? (SAID[answer] ?? answer) : "not asked yet", done: answer != null };
  },
  Page: Cost,
};
