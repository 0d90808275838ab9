import { scaleLinear, scaleLog } from "d3-scale";

import type { Schemas } from "../../api/client";
import { useWidth } from "../../lib/use-width";

type Spin = Schemas["SpinOut"];
export type Quantity = "bright_db" | "shake_mm_s";

const HEIGHT = 190;
const LEFT = 48;
const RIGHT = 74;
const LINE_PX = 14;
const SPEEDS = [60, 125, 250, 500, 1000];
const NAMES = {
  bright_db: { title: "How bright it sounds, at equal speed", unit: "dB" },
  shake_mm_s: { title: "How far it shakes, at equal speed", unit: "mm/s" },
} as const;

/** The spins of one machine over each other: the newest is a rope, those before it threads, the older the finer dotted. */
export function OverTheYears({ spins, quantity }: { spins: readonly Spin[]; quantity: Quantity }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const lines = linesOf(spins, quantity);
  const values = lines.flatMap((line) => line.points.map((point) => point.value));
  if (values.length === 0) return null;
  const rpm = lines.flatMap((line) => line.points.map((point) => point.rpm));
  const { title, unit } = NAMES[quantity];
  const x = scaleLog([Math.min(...rpm) * 0.9, Math.max(...rpm) * 1.1], [LEFT, Math.max(width - RIGHT, LEFT + 1)]);
  const low = quantity === "bright_db" ? Math.min(...values) - 3 : 0;
  const y = scaleLinear(
    [low, quantity === "bright_db" ? Math.max(...values) + 3 : 1.1 * Math.max(...values) + 0.01],
    [HEIGHT, 10],
  );
  const labels = apart(
    lines.map((line) => y(line.points.at(-1)?.value ?? 0)),
    LINE_PX,
  );
  return (
    <figure className="min-w-0">
      <figcaption className="font-bold">{title}</figcaption>
      <div ref={ref}>
        {width > 0 ? (
          <svg
            width={width}
            height={HEIGHT + 22}
            role="img"
            aria-label={`${title}: ${lines.map(said(unit)).join("; ")}`}
          >
            {y.ticks(4).map((value) => (
              <g key={value}>
                <line x1={LEFT} x2={width - RIGHT} y1={y(value)} y2={y(value)} stroke="var(--line)" />
                <text x={LEFT - 6} y={y(value) + 4} textAnchor="end" className="fill-ink-soft font-mono text-[11px]">
                  {String(value).replace("-", "−")}
                </text>
              </g>
            ))}
            {SPEEDS.filter((speed) => x(speed) >= LEFT && x(speed) <= width - RIGHT).map((speed) => (
              <text
                key={speed}
                x={x(speed)}
                y={HEIGHT + 16}
                textAnchor="middle"
                className="fill-ink-soft font-mono text-[11px]"
              >
                {speed}
              </text>
            ))}
            {lines.map((line, i) => {
              const age = lines.length - 1 - i;
              const last = line.points.at(-1);
              const beside = labels[i] ?? 0;
              return (
                <g key={line.job}>
                  <polyline
                    points={line.points.map((point) => `${String(x(point.rpm))},${String(y(point.value))}`).join(" ")}
                    fill="none"
                    stroke={age === 0 ? "var(--persimmon)" : "var(--ink)"}
                    strokeWidth={age === 0 ? 4 : 2}
                    strokeDasharray={age === 0 ? undefined : `${String(Math.max(2, 10 - 3 * age))} ${String(3 + age)}`}
                    strokeLinejoin="round"
                  />
                  {last ? (
                    <text
                      x={x(last.rpm) + 6}
                      y={beside + 4}
                      className={`text-[12px] ${age === 0 ? "fill-ink font-bold" : "fill-ink-soft"}`}
                    >
                      {line.when}
                    </text>
                  ) : null}
                </g>
              );
            })}
          </svg>
        ) : null}
      </div>
      <p className="text-sm text-ink-soft">
        Across: drum speed, rpm. Up: {unit}
        {quantity === "bright_db"
          ? ", sound above 1 kHz against sound below: no microphone’s gain changes it, another spot does by 2 to 3 dB."
          : "."}
      </p>
    </figure>
  );
}

export interface YearLine {
  job: string;
  when: string;
  points: readonly { rpm: number; value: number }[];
}

/** What is drawn of each spin, the oldest first; spins that hold nothing of it are left out. */
export function linesOf(spins: readonly Spin[], quantity: Quantity): YearLine[] {
  return spins
    .map((spin) => ({
      job: spin.job,
      when: spin.at.slice(0, 7),
      points: spin.levels.flatMap((level) => {
        const value = level[quantity];
        return value === null ? [] : [{ rpm: level.speed_rpm, value }];
      }),
    }))
    .filter((line) => line.points.length > 1);
}

/** Heights of labels, moved so far that none lies on another; their order stays. */
export function apart(heights: readonly number[], gap: number): number[] {
  const order = heights.map((_, i) => i).sort((a, b) => (heights[a] ?? 0) - (heights[b] ?? 0));
  const moved = [...heights];
  let last = -Infinity;
  for (const i of order) {
    last = Math.max(heights[i] ?? 0, last + gap);
    moved[i] = last;
  }
  return moved;
}

function said(unit: string): (line: YearLine) => string {
  return (line) => {
    const top = line.points.at(-1);
    return top ? `${line.when} ${top.value.toFixed(1)} ${unit} at ${top.rpm.toFixed(0)} rpm` : line.when;
  };
}
