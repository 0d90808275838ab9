import { describe, expect, it } from "vitest";

import type { RecordData } from "../../api/client";
import { partWords, recordTitle } from "./record-words";

const part = (hits: number, of: number) => ({ hits, of, share: of ? hits / of : null, low: 0.4, high: 0.9 });

describe("a share in words", () => {
  it("is honest when counts are small", () => {
    expect(partWords(part(0, 0))).toBe("none yet");
    expect(partWords(part(2, 3))).toBe("2 of 3: too few to say");
    expect(partWords(part(15, 20))).toBe("15 of 20, 75 %, between 40 and 90 %");
  });
  it("makes a title", () => {
    const told = (hits: number, of: number) => recordTitle({ right: part(hits, of) } as RecordData);
    expect(told(0, 0)).toContain("No call");
    expect(told(1, 2)).toBe("1 of the first 2 calls were right");
    expect(told(50, 61)).toBe("50 of 61 calls named what it was");
  });
});
