import type { TableAsked } from "../../../api/client";

/** What a column of a log is; empty for one that is left out. */
export type Meaning = TableAsked["meant"][number];

export const TIME_UNITS = [
  { value: "t_s", label: "seconds" },
  { value: "t_ms", label: "milliseconds" },
  { value: "t_us", label: "microseconds" },
  { value: "t_ns", label: "nanoseconds" },
  { value: "time", label: "clock time" },
] as const;

export const MOTION_UNITS = [
  { value: "m_s2", label: "m/s²" },
  { value: "g", label: "g" },
] as const;

export interface Named {
  meant: readonly Meaning[];
  time: string;
  motion: string;
}

/** What is still missing before the table can be read, in words; null where nothing is. */
export function missing(named: Named): string | null {
  const count = (meaning: Meaning) => named.meant.filter((m) => m === meaning).length;
  if (count("t") === 0) return "Say which column is the time.";
  if (count("x") + count("y") + count("z") === 0) return "Say which columns are the acceleration.";
  if ((["t", "x", "y", "z"] as const).some((m) => count(m) > 1)) return "Two columns are said to be the same.";
  if (named.time === "") return "Say in which unit the time is.";
  if (named.motion === "") return "Say in which unit the acceleration is.";
  return null;
}

/** The line that names the columns. */
export function namingLine(named: Named, separator: string): string {
  const name = (meaning: Meaning, place: number) =>
    meaning === "" ? `other_${String(place + 1)}` : meaning === "t" ? named.time : `a${meaning}_${named.motion}`;
  return named.meant.map(name).join(separator);
}

/** The table with that line in place of its own. */
export async function withNames(content: Blob, named: Named, asked: TableAsked): Promise<Blob> {
  const bytes = await content.arrayBuffer();
  const mark = new Uint8Array(bytes.slice(0, 2));
  const encoding =
    mark[0] === 0xff && mark[1] === 0xfe ? "utf-16le" : mark[0] === 0xfe && mark[1] === 0xff ? "utf-16be" : "utf-8";
  const text = new TextDecoder(encoding).decode(bytes);
  let rest = 0;
  for (let line = 0; line < asked.lines_before; line += 1) rest = text.indexOf("\n", rest) + 1;
  return new Blob([namingLine(named, asked.separator), "\n", text.slice(rest)], { type: "text/csv" });
}
