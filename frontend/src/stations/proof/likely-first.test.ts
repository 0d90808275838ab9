import { expect, it } from "vitest";

import { inTheOrderOf, shortAndRest } from "./likely-first";

const options = "abcdefghi".split("").map((value) => ({ value, label: value.toUpperCase() }));
const values = (some: readonly { value: string }[]) => some.map((o) => o.value).join("");

it("puts what is likely first and leaves the others in their order", () => {
  expect(values(inTheOrderOf(options, ["h", "c", "nothing of these"]))).toBe("hcabdefgi");
  expect(values(inTheOrderOf(options, []))).toBe("abcdefghi");
});

it("keeps the list short, with what is chosen", () => {
  const { short, rest } = shortAndRest(options, ["i"]);
  expect(values(short)).toBe("abcdefi");
  expect(values(rest)).toBe("gh");
  expect(shortAndRest(options.slice(0, 4), []).rest).toEqual([]);
});
