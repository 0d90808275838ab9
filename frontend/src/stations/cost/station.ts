import type { Station } from "../station";

/** Still done on paper: what is sent from elsewhere is kept in the diary all the same. */
export const station: Station = {
  code: "cost",
  name: "Cost",
  kinds: ["priced", "offered", "decided"],
  tag: () => ({ words: "on paper", done: false }),
  Page: null,
};
