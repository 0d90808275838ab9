import { scaleLinear } from "d3-scale";

import type { Schemas } from "../../api/client";
import { useWidth } from "../../lib/use-width";

const HEIGHT = 215;
const LEFT = 40;
/** What lies further below the floor says nothing and would hang over the axis. */
const LOWEST_DB = -3;

/** Envelope spectrum in multiples of the drum's turn, with the races' lines hung from above. */
export function RaceComb({ envelope }: { envelope: Schemas["EnvelopeOut"] }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const found = envelope.lines.filter((line) => line.false_alarm < 0.05).slice(0, 1);
  const best = envelope.lines[0];
  const top = Math.max(8, ...envelope.ratio_db.map((v) => v ?? 0)) + 2;
  const x = scaleLinear([0, 18], [LEFT, Math.max(width - 6, LEFT + 1)]);
  const y = scaleLinear([LOWEST_DB, top], [HEIGHT, 24]);
  const points = envelope.order.flatMap((order, i) => {
    const db = envelope.ratio_db[i] ?? null;
    return order === null || db === null ? [] : [`${x(order).toFixed(1)},${y(Math.max(db, LOWEST_DB)).toFixed(1)}`];
  });
  const line = found[0];
  const title = line
    ? `${line.race === "ball" ? "Ball" : `${line.race} race`} of the ${line.bearing}: lines at ${line.order.toFixed(2)} per turn`
    : "No bearing lines beyond chance";
  return (
    <figure className="min-w-0">
      <figcaption className="font-bold first-letter:uppercase">{title}</figcaption>
      <div ref={ref}>
        {width > 0 ? (
          <svg width={width} height={HEIGHT + 22} role="img" aria-label={`Envelope spectrum. ${title}`}>
            {y.ticks(4).map((db) => (
              <g key={db}>
                <line x1={LEFT} x2={width} y1={y(db)} y2={y(db)} stroke="var(--line)" />
                <text x={LEFT - 6} y={y(db) + 4} textAnchor="end" className="fill-ink-soft font-mono text-[11px]">
                  {db}
                </text>
              </g>
            ))}
            {line
              ? [1, 2, 3].map((k) => (
                  <g key={k}>
                    <line
                      x1={x(k * line.order)}
                      x2={x(k * line.order)}
                      y1="18"
                      y2={HEIGHT}
                      stroke="var(--persimmon)"
                      strokeWidth="6"
                      opacity="0.3"
                    />
                    <text x={x(k * line.order)} y="13" textAnchor="middle" className="fill-persimmon text-xs font-bold">
                      {k === 1 ? line.race : `${String(k)}×`}
                    </text>
                  </g>
                ))
              : null}
            <polyline points={points.join(" ")} fill="none" stroke="var(--ink)" strokeWidth="1.2" />
            {[2, 4, 6, 8, 10, 12, 14, 16].map((order) => (
              <text
                key={order}
                x={x(order)}
                y={HEIGHT + 16}
                textAnchor="middle"
                className="fill-ink-soft font-mono text-[11px]"
              >
                {order}
              </text>
            ))}
          </svg>
        ) : null}
      </div>
      <p className="text-sm text-ink-soft">
        Across: swellings per drum turn, {envelope.band_hz[0]} to {envelope.band_hz[1]} Hz. Up: dB over the noise floor.
        {best
          ? ` Chance of a false alarm in the whole search: ${best.false_alarm < 1e-6 ? "below one in a million" : best.false_alarm.toLocaleString(undefined, { maximumSignificantDigits: 2 })}.`
          : ""}
      </p>
    </figure>
  );
}
