import { describe, expect, it } from "vitest";

import type { Waiting } from "../device/outbox";
import { waitingWords } from "./waiting-words";

function waiting(entries: number, files: number, more: Partial<Waiting> = {}): Waiting {
  const some = { entries: Array(entries).fill({}), files: Array(files).fill({}) };
  return { ...some, sending: null, state: "idle", clock: null, last: null, ...more };
}

describe("what waits on this device", () => {
  it("is silent when nothing does and the server answers", () => {
    expect(waitingWords(waiting(0, 0))).toBeNull();
  });
  it("counts in words", () => {
    expect(waitingWords(waiting(3, 1, { state: "no_signal" }))).toBe(
      "No signal. 3 entries and 1 recording wait on this device and will be sent.",
    );
    expect(waitingWords(waiting(1, 0, { state: "no_signal" }))).toContain("1 entry waits");
    expect(waitingWords(waiting(0, 2, { state: "sending", sending: { id: "a", share: 0.4 } }))).toBe(
      "Sending 2 recordings, 40\u00a0% …",
    );
  });
});
