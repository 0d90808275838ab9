/** A row of motion: time on the sound's clock [s], then x, y, z [m/s²]. */
export type MotionRow = readonly [number, number, number, number];

const WAV_HEADER_BYTES = 44;
const SAMPLE_BYTES = 3;
const FULL_SCALE = 0x7fffff;

/** Sound as a WAV file, 24 bits, one channel: quiet turning stays above the steps of the numbers. */
export function wavOf(blocks: readonly Float32Array[], rate_hz: number): Blob {
  const count = blocks.reduce((sum, block) => sum + block.length, 0);
  const head = new DataView(new ArrayBuffer(WAV_HEADER_BYTES));
  const text = (at: number, word: string) => {
    [...word].forEach((c, i) => {
      head.setUint8(at + i, c.charCodeAt(0));
    });
  };
  text(0, "RIFF");
  head.setUint32(4, WAV_HEADER_BYTES - 8 + count * SAMPLE_BYTES, true);
  text(8, "WAVEfmt ");
  head.setUint32(16, 16, true);
  head.setUint16(20, 1, true);
  head.setUint16(22, 1, true);
  head.setUint32(24, rate_hz, true);
  head.setUint32(28, rate_hz * SAMPLE_BYTES, true);
  head.setUint16(32, SAMPLE_BYTES, true);
  head.setUint16(34, 8 * SAMPLE_BYTES, true);
  text(36, "data");
  head.setUint32(40, count * SAMPLE_BYTES, true);
  return new Blob([head.buffer, ...blocks.map(pcm24)], { type: "audio/wav" });
}

function pcm24(block: Float32Array): ArrayBuffer {
  const bytes = new Uint8Array(block.length * SAMPLE_BYTES);
  block.forEach((sample, i) => {
    const value = Math.round(Math.max(-1, Math.min(1, sample)) * FULL_SCALE);
    bytes[SAMPLE_BYTES * i] = value & 0xff;
    bytes[SAMPLE_BYTES * i + 1] = (value >> 8) & 0xff;
    bytes[SAMPLE_BYTES * i + 2] = (value >> 16) & 0xff;
  });
  return bytes.buffer;
}

/** Motion as the open case format's CSV. Rows that came late or twice are left out: its times rise. */
export function motionCsv(rows: readonly MotionRow[]): Blob {
  const lines = ["t_s,ax_m_s2,ay_m_s2,az_m_s2"];
  let last = -Infinity;
  for (const [t_s, x, y, z] of rows) {
    if (!(t_s > last)) continue;
    last = t_s;
    lines.push(`${t_s.toFixed(5)},${x.toFixed(5)},${y.toFixed(5)},${z.toFixed(5)}`);
  }
  return new Blob([`${lines.join("\n")}\n`], { type: "text/csv" });
}

/** Blocks for the socket: a number that says what it is, four bytes of zero, the values, all little-endian. */
export function soundBlock(samples: Float32Array): ArrayBuffer {
  const out = new ArrayBuffer(8 + 4 * samples.length);
  const view = new DataView(out);
  view.setUint32(0, 1, true);
  samples.forEach((sample, i) => {
    view.setFloat32(8 + 4 * i, sample, true);
  });
  return out;
}

export function motionBlock(rows: readonly MotionRow[]): ArrayBuffer {
  const out = new ArrayBuffer(8 + 32 * rows.length);
  const view = new DataView(out);
  view.setUint32(0, 2, true);
  rows.forEach((row, k) => {
    row.forEach((value, i) => {
      view.setFloat64(8 + 32 * k + 8 * i, value, true);
    });
  });
  return out;
}
