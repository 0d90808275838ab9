import { describe, expect, it } from "vitest";

import { initialsOf } from "./top-bar";

describe("initialsOf", () => {
  it("takes the first and the last name", () => {
    expect(initialsOf("Ida Lock")).toBe("IL");
    expect(initialsOf("  ora van der Reed ")).toBe("OR");
    expect(initialsOf("Åse")).toBe("Å");
    expect(initialsOf("")).toBe("");
  });
});
