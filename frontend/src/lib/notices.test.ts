import { describe, expect, it } from "vitest";

import { ServerSaid } from "../api/client";
import { noticeOf, Notices } from "./notices";

describe("notices", () => {
  it("says an action that failed, with what is safe and what to do", () => {
    expect(noticeOf(new TypeError("fetch"), true)).toMatchObject({ next: "Try again when there is a signal." });
    expect(noticeOf(new ServerSaid("Busy.", "try_again", 503), true)?.title).toBe("Busy.");
    // That the signal is gone is said by the line that counts what waits.
    expect(noticeOf(new TypeError("fetch"), false)).toBeNull();
  });

  it("says the same once until it is dismissed", () => {
    const notices = new Notices();
    notices.add({ title: "a", safe: "", next: "" });
    notices.add({ title: "a", safe: "", next: "" });
    const [only, ...more] = notices.snapshot();
    expect(more).toEqual([]);
    notices.dismiss(only?.id ?? 0);
    expect(notices.snapshot()).toEqual([]);
  });
});
