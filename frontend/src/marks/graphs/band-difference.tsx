import { scaleLinear, scaleLog } from "d3-scale";

import type { Schemas } from "../../api/client";
import { signedDb } from "../../lib/format";
import { useWidth } from "../../lib/use-width";
import { loudestStretch } from "./loudest-stretch";

const HEIGHT = 190;
const LEFT = 44;
/** Half a third of an octave to either side. */
const HALF_BAND = 10 ** 0.05;

/** How much louder than the others each band is at equal speed: a shore line over still water, hatched where it is clear. */
export function BandDifference({ comparison }: { comparison: Schemas["ComparisonOut"] }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const bands = comparison.bands;
  const first = bands[0];
  const last = bands[bands.length - 1];
  if (!first || !last) return null;
  const far = Math.max(6, ...bands.map((band) => Math.abs(band.db) + band.sigma_db));
  const x = scaleLog([first.centre_hz / HALF_BAND, last.centre_hz * HALF_BAND], [LEFT, Math.max(width - 6, LEFT + 1)]);
  const y = scaleLinear([-far, far], [HEIGHT, 10]);
  const title = loudestStretch(bands);
  return (
    <figure className="min-w-0">
      <figcaption className="font-bold">{title}</figcaption>
      <div ref={ref}>
        {width > 0 ? (
          <svg width={width} height={HEIGHT + 22} role="img" aria-label={`Difference by band. ${title}`}>
            <defs>
              <pattern
                id="louder-hatch"
                width="6"
                height="6"
                patternUnits="userSpaceOnUse"
                patternTransform="rotate(45)"
              >
                <rect width="6" height="6" fill="var(--persimmon)" opacity="0.25" />
                <line x1="0" x2="0" y1="0" y2="6" stroke="var(--persimmon)" strokeWidth="3" />
              </pattern>
            </defs>
            {y.ticks(5).map((db) => (
              <g key={db}>
                <line x1={LEFT} x2={width} y1={y(db)} y2={y(db)} stroke={db === 0 ? "var(--ink)" : "var(--line)"} />
                <text x={LEFT - 6} y={y(db) + 4} textAnchor="end" className="fill-ink-soft font-mono text-[11px]">
                  {db > 0 ? `+${String(db)}` : String(db).replace("-", "−")}
                </text>
              </g>
            ))}
            {bands.map((band) => {
              const [left, right] = [x(band.centre_hz / HALF_BAND), x(band.centre_hz * HALF_BAND)];
              const louder = band.is_clear && band.db > 0;
              return (
                <g key={band.centre_hz}>
                  <rect
                    x={left + 0.5}
                    width={Math.max(right - left - 1, 1)}
                    y={Math.min(y(0), y(band.db))}
                    height={Math.abs(y(0) - y(band.db))}
                    fill={louder ? "url(#louder-hatch)" : "var(--line)"}
                    stroke={band.is_clear ? "var(--ink)" : "none"}
                  />
                  <line
                    x1={(left + right) / 2}
                    x2={(left + right) / 2}
                    y1={y(band.db - band.sigma_db)}
                    y2={y(band.db + band.sigma_db)}
                    stroke="var(--ink-soft)"
                  />
                </g>
              );
            })}
            {[63, 125, 250, 500, 1000, 2000, 4000, 8000]
              .filter((hz) => hz >= first.centre_hz / HALF_BAND && hz <= last.centre_hz * HALF_BAND)
              .map((hz) => (
                <text
                  key={hz}
                  x={x(hz)}
                  y={HEIGHT + 16}
                  textAnchor="middle"
                  className="fill-ink-soft font-mono text-[11px]"
                >
                  {hz < 1000 ? hz : `${String(hz / 1000)}k`}
                </text>
              ))}
          </svg>
        ) : null}
      </div>
      <p className="text-sm text-ink-soft">
        Across: third-octave bands in Hz. Up: dB louder than the others at the same drum speed, with its standard error.
        {comparison.calibrated || !comparison.overall
          ? ""
          : ` The microphones are not calibrated: ${signedDb(comparison.overall.db)} that all bands share may be the phone, and is taken out.`}
      </p>
    </figure>
  );
}
