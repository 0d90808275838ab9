import { describe, expect, it } from "vitest";

import { base64Of } from "./take-seconds";

describe("sound on its way to be heard", () => {
  it("is 16-bit little-endian, clipped at full scale", () => {
    const bytes = Uint8Array.from(atob(base64Of(new Float32Array([0, 1, -1, 2, 0.5]))), (c) => c.charCodeAt(0));
    const view = new DataView(bytes.buffer);
    expect([0, 1, 2, 3, 4].map((k) => view.getInt16(2 * k, true))).toEqual([0, 32767, -32767, 32767, 16384]);
  });
  it("is whole for seconds of sound", () => {
    expect(atob(base64Of(new Float32Array(48_000))).length).toBe(96_000);
  });
});
