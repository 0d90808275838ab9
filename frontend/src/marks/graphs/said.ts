import type { RecordData } from "../../api/client";

type Bin = RecordData["bins"][number];

/** Whether what was said lies outside of what the counts leave open. */
export function isTorn(bin: Bin): boolean {
  return bin.right.of > 0 && (bin.said < bin.right.low || bin.said > bin.right.high);
}

/** What the bins say together, in a line. */
export function saidTitle(bins: readonly Bin[]): string {
  const jobs = bins.reduce((sum, bin) => sum + bin.right.of, 0);
  if (jobs === 0) return "Nothing to hold the calls against yet";
  const said = bins.reduce((sum, bin) => sum + bin.said * bin.right.of, 0) / jobs;
  const right = bins.reduce((sum, bin) => sum + bin.right.hits, 0) / jobs;
  const torn = bins.filter(isTorn);
  const worst = torn[0];
  const base = `Said ${(100 * said).toFixed(0)} % on average, right ${(100 * right).toFixed(0)} % of ${String(jobs)}`;
  if (!worst) return `${base}: as often as it says`;
  return worst.said > worst.right.high ? `${base}: surer than it may be` : `${base}: better than it says`;
}
