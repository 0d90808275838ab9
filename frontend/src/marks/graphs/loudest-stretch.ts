import type { Schemas } from "../../api/client";

type Band = Schemas["BandDifferenceOut"];

/** The finding in words: the run of neighbouring bands that stands out most, or that none does. */
export function loudestStretch(bands: readonly Band[]): string {
  const runs: Band[][] = [];
  let open: Band[] | undefined;
  for (const band of bands) {
    if (!band.is_clear || band.db <= 0) {
      open = undefined;
    } else if (open) {
      open.push(band);
    } else {
      open = [band];
      runs.push(open);
    }
  }
  const weight = (run: Band[]) => run.reduce((sum, band) => sum + band.db, 0);
  const loudest = runs.reduce<Band[]>((best, run) => (weight(run) > weight(best) ? run : best), []);
  const low = loudest[0];
  const high = loudest[loudest.length - 1];
  if (!low || !high) return "No band is clearly louder";
  const most = Math.max(...loudest.map((band) => band.db));
  const range =
    low === high ? `around ${hertz(low.centre_hz)}` : `from ${hertz(low.centre_hz)} to ${hertz(high.centre_hz)}`;
  return `Louder ${range}, by up to ${most.toFixed(0)} dB`;
}

function hertz(value: number): string {
  return value < 950 ? `${value.toFixed(0)} Hz` : `${(value / 1000).toFixed(1)} kHz`;
}
