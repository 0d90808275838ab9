import { scaleLinear } from "d3-scale";

import type { Curves } from "../../api/client";
import { words } from "../../lib/format";
import { useWidth } from "../../lib/use-width";
import { cursorReading, heldRpm, phaseBands, ribbonPieces } from "./ribbon";

const HEIGHT = 190;
const FOOT = 46;
const LEFT = 46;

/** The spin test along time: the ribbon's height is drum speed, its hatching the roughness of the sound. */
export function SpeedRibbon({
  curves,
  cursor_s,
  onCursor,
}: {
  curves: Curves;
  cursor_s: number | null;
  onCursor: (t_s: number) => void;
}) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const times = (curves.t_s ?? []).filter((t): t is number => t !== null);
  const first = times[0] ?? 0;
  const last = times.at(-1) ?? 1;
  const top = Math.max(100, ...(curves.rpm ?? []).map((r) => r ?? 0)) * 1.08;
  const x = scaleLinear([first, last], [LEFT, Math.max(width - 4, LEFT + 1)]);
  const y = scaleLinear([0, top], [HEIGHT, 8]);
  const reading = cursor_s === null ? null : cursorReading(curves, cursor_s);
  const title = ribbonTitle(curves);
  const move = (event: React.PointerEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    onCursor(Math.min(last, Math.max(first, x.invert(event.clientX - box.left))));
  };
  return (
    <figure className="min-w-0">
      <figcaption className="font-bold">{title}</figcaption>
      <div ref={ref}>
        {width > 0 ? (
          <svg
            width={width}
            height={HEIGHT + FOOT}
            role="slider"
            tabIndex={0}
            aria-label={`Speed ribbon. ${title}`}
            aria-valuemin={first}
            aria-valuemax={last}
            aria-valuenow={cursor_s ?? first}
            aria-valuetext={reading ?? "no moment chosen"}
            className="touch-pan-y select-none"
            onPointerDown={move}
            onPointerMove={(event) => {
              if (event.buttons > 0) move(event);
            }}
            onKeyDown={(event) => {
              const step = event.key === "ArrowRight" ? 0.5 : event.key === "ArrowLeft" ? -0.5 : 0;
              if (step !== 0) {
                event.preventDefault();
                onCursor(Math.min(last, Math.max(first, (cursor_s ?? first) + step)));
              }
            }}
          >
            <defs>
              <pattern id="rough" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(60)">
                <rect width="2.2" height="5" fill="var(--enamel)" />
              </pattern>
            </defs>
            {y.ticks(4).map((rpm) => (
              <g key={rpm}>
                <line x1={LEFT} x2={width} y1={y(rpm)} y2={y(rpm)} stroke="var(--line)" />
                <text x={LEFT - 6} y={y(rpm) + 4} textAnchor="end" className="fill-ink-soft font-mono text-[11px]">
                  {rpm}
                </text>
              </g>
            ))}
            {ribbonPieces(curves).map((piece) => (
              <g key={piece.start}>
                <path d={outline(piece.points, x, y)} fill="var(--ink)" />
                {piece.rough.map((spot) => (
                  <rect
                    key={spot.t_s}
                    x={x(spot.t_s) - 1}
                    width={Math.max(1, x(spot.t_s + 0.14) - x(spot.t_s) + 1)}
                    y={y(spot.rpm)}
                    height={HEIGHT - y(spot.rpm)}
                    fill="url(#rough)"
                    opacity={Math.min(1, spot.roughness)}
                  />
                ))}
              </g>
            ))}
            {curves.power_cut_s != null ? (
              <g>
                <line
                  x1={x(curves.power_cut_s)}
                  x2={x(curves.power_cut_s)}
                  y1="4"
                  y2={HEIGHT + 4}
                  stroke="var(--persimmon)"
                  strokeWidth="2"
                  strokeDasharray="5 4"
                />
                <text x={x(curves.power_cut_s) + 5} y="14" className="fill-persimmon text-xs font-bold">
                  motor off
                </text>
              </g>
            ) : null}
            {phaseBands(curves, (t) => x(t)).map((band) => (
              <g key={band.key}>
                <rect
                  x={band.x0 + 1}
                  width={Math.max(1, band.x1 - band.x0 - 2)}
                  y={HEIGHT + 5}
                  height="5"
                  fill={band.name === "unknown" ? "var(--line)" : "var(--ink)"}
                />
                {band.fits ? (
                  <text x={(band.x0 + band.x1) / 2} y={HEIGHT + 25} textAnchor="middle" className="fill-ink text-xs">
                    {band.name === "unknown" ? "speed not known" : words(band.name)}
                  </text>
                ) : null}
              </g>
            ))}
            {x.ticks(Math.max(3, Math.floor(width / 110))).map((t) => (
              <text
                key={t}
                x={x(t)}
                y={HEIGHT + 42}
                textAnchor="middle"
                className="fill-ink-soft font-mono text-[11px]"
              >
                {t} s
              </text>
            ))}
            {cursor_s !== null ? (
              <line
                x1={x(cursor_s)}
                x2={x(cursor_s)}
                y1="0"
                y2={HEIGHT + 12}
                stroke="var(--marigold)"
                strokeWidth="3"
              />
            ) : null}
          </svg>
        ) : null}
      </div>
      <p className="min-h-6 font-mono text-sm text-ink-soft">
        {reading ??
          "Tap or drag along the ribbon to hear and read a moment. Height: drum speed in rpm; hatching: rough sound."}
      </p>
    </figure>
  );
}

function outline(
  points: readonly { t_s: number; rpm: number }[],
  x: (t: number) => number,
  y: (r: number) => number,
): string {
  const edge = points.map((p) => `${x(p.t_s).toFixed(1)},${y(p.rpm).toFixed(1)}`);
  const begin = points[0];
  const end = points.at(-1);
  if (!begin || !end) return "";
  return `M${x(begin.t_s).toFixed(1)},${y(0).toFixed(1)} L${edge.join(" L")} L${x(end.t_s).toFixed(1)},${y(0).toFixed(1)} Z`;
}

function ribbonTitle(curves: Curves): string {
  const top = heldRpm(curves);
  const coast = curves.phases?.some((p) => p.name === "coast_down");
  return `Up to ${top.toFixed(0)} rpm${coast ? ", with a coast-down" : "; no coast-down was recorded"}`;
}
