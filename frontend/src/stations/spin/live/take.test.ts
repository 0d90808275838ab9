import { describe, expect, it } from "vitest";

import { motionBlock, motionCsv, soundBlock, wavOf } from "./take";

describe("wavOf", () => {
  it("is a WAV of 24 bits that holds what was recorded", async () => {
    const bytes = new DataView(
      await wavOf([new Float32Array([0, 1]), new Float32Array([-1, 0.5, 2])], 44100).arrayBuffer(),
    );
    expect(bytes.byteLength).toBe(44 + 15);
    expect(String.fromCharCode(bytes.getUint8(0), bytes.getUint8(8), bytes.getUint8(36))).toBe("RWd");
    expect([
      bytes.getUint32(4, true),
      bytes.getUint32(24, true),
      bytes.getUint16(34, true),
      bytes.getUint32(40, true),
    ]).toEqual([51, 44100, 24, 15]);
    const at = (k: number) =>
      (bytes.getUint8(44 + 3 * k) | (bytes.getUint8(45 + 3 * k) << 8) | (bytes.getInt8(46 + 3 * k) << 16)) / 0x7fffff;
    expect([0, 1, 2, 3, 4].map((k) => Number(at(k).toFixed(4)))).toEqual([0, 1, -1, 0.5, 1]);
  });
});

describe("motionCsv", () => {
  it("has rising times only", async () => {
    const text = await motionCsv([
      [0, 1, 2, 9.81],
      [0.02, 0, 0, 9.8],
      [0.02, 5, 5, 5],
      [0.01, 5, 5, 5],
      [0.04, 0, 0, 9.8],
    ]).text();
    expect(text.split("\n")).toEqual([
      "t_s,ax_m_s2,ay_m_s2,az_m_s2",
      "0.00000,1.00000,2.00000,9.81000",
      "0.02000,0.00000,0.00000,9.80000",
      "0.04000,0.00000,0.00000,9.80000",
      "",
    ]);
  });
});

describe("blocks for the socket", () => {
  it("say what they hold, little-endian", () => {
    const sound = new DataView(soundBlock(new Float32Array([0.25])));
    expect([sound.byteLength, sound.getUint32(0, true), sound.getFloat32(8, true)]).toEqual([12, 1, 0.25]);
    const motion = new DataView(motionBlock([[1.5, 0.1, 0.2, 9.8]]));
    expect([
      motion.byteLength,
      motion.getUint32(0, true),
      motion.getFloat64(8, true),
      motion.getFloat64(32, true),
    ]).toEqual([40, 2, 1.5, 9.8]);
  });
});
