import type { Result } from "../../api/client";

// More than these move the odds by next to nothing.
const MOST_MOVED = 3;
const LEAST_DB = 0.5;

/** What one finding made of a figure: its level, and which suspects it moves most. */
export interface FigureTold {
  finding: string;
  level: string;
  moved: readonly { short: string; decibans: number }[];
}

/** What the findings that read a figure made of it in this call. */
export function figureTold(result: Result, findings: readonly string[]): FigureTold[] {
  return findings.flatMap((code) => {
    const read = result.suspects.flatMap((suspect) =>
      suspect.evidence.filter((e) => e.code === code).map((evidence) => ({ suspect, evidence })),
    );
    const first = read[0]?.evidence;
    if (!first) return [];
    const moved = read
      .map(({ suspect, evidence }) => ({ short: suspect.short, decibans: evidence.weight_db }))
      .filter((one) => Math.abs(one.decibans) >= LEAST_DB)
      .sort((a, b) => Math.abs(b.decibans) - Math.abs(a.decibans))
      .slice(0, MOST_MOVED);
    return [{ finding: first.name, level: first.level, moved }];
  });
}
