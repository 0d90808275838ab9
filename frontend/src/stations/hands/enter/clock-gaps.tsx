import { useState } from "react";

import { Keepable } from "../../../marks/graphs/keepable";
import { gapsTable } from "../../../marks/graphs/tables";
import { ChoiceField } from "../../../ui/field";
import type { WidgetProps } from "../widgets";
import { hourWords, nextPlace, readings, roundTheClock, withReading } from "./lists";
import { NumberPad } from "./number-pad";

const COUNTS = Array.from({ length: 13 }, (_, k) => String(4 + k)).map((value) => ({ value, label: value }));
const SIZE = 320;
const CENTRE = SIZE / 2;
const DIAL = 128;
// A reading's outline lies between these radii.
const INNER = 52;
const OUTER = 96;

/** Gaps read round the drum clock: the lit hour is read next, any can be read again; the fit is drawn as it grows. */
export function ClockGaps({ check, typed, onChange, judged }: WidgetProps) {
  const name = check.values[0]?.name ?? "gaps_mm";
  const text = typed[name] ?? "";
  const given = text.split(/\s+/).filter((part) => part !== "").length;
  const [count, setCount] = useState(given >= 4 ? given : 8);
  const [place, setPlace] = useState(() => nextPlace(text, count, count - 1));
  const read = readings(text, count);
  const put = (value: string) => {
    onChange({ ...typed, [name]: withReading(text, count, place, value) });
  };
  const numbers = read.map((one) => (one === "" ? null : Number(one)));
  const known = numbers.filter((one) => one !== null);
  const low = Math.min(...known);
  const span = Math.max(Math.max(...known) - low, 2);
  const radius = (gap: number) => INNER + ((gap - low) / span) * (OUTER - INNER);
  const sums = judged?.sums ?? {};
  const fit =
    known.length > 0 &&
    sums["mean_mm"] !== undefined &&
    sums["runout_mm"] !== undefined &&
    sums["widest_deg"] !== undefined
      ? circle(sums["mean_mm"], sums["runout_mm"], sums["widest_deg"], radius)
      : null;
  return (
    <div className="flex flex-col gap-4 lg:flex-row">
      <div>
        <ChoiceField
          label="Places round the turn"
          options={COUNTS}
          value={String(count)}
          onChange={(value) => {
            setCount(Number(value));
            setPlace(0);
            onChange({ ...typed, [name]: "" });
          }}
        />
        <Keepable name="Gaps round the drum" table={() => gapsTable(numbers)} empty={known.length < 4}>
          <div className="relative mx-auto mt-3 size-80" role="group" aria-label="Gaps round the drum clock">
            <svg viewBox={`0 0 ${String(SIZE)} ${String(SIZE)}`} className="absolute inset-0" aria-hidden="true">
              <circle
                cx={CENTRE}
                cy={CENTRE}
                r={OUTER + 8}
                fill="var(--porcelain)"
                stroke="var(--ink)"
                strokeWidth="3"
              />
              <circle cx={CENTRE} cy={CENTRE} r={INNER - 10} fill="none" stroke="var(--line)" strokeWidth="2" />
              {fit ? <path d={fit} fill="none" stroke="var(--ink)" strokeWidth="2" strokeDasharray="6 4" /> : null}
              {numbers.map((gap, k) => {
                if (gap === null) return null;
                const { x, y } = roundTheClock(k, count);
                return (
                  <circle
                    key={k}
                    cx={CENTRE + x * radius(gap)}
                    cy={CENTRE + y * radius(gap)}
                    r="6"
                    fill="var(--persimmon)"
                  />
                );
              })}
            </svg>
            {read.map((one, k) => {
              const { x, y } = roundTheClock(k, count);
              return (
                <button
                  key={k}
                  type="button"
                  aria-pressed={k === place}
                  aria-label={`${hourWords(k, count)}: ${one === "" ? "not read yet" : `${one} mm`}`}
                  className={`absolute size-12 -translate-x-1/2 -translate-y-1/2 rounded-full border-2 font-mono text-sm font-bold ${k === place ? "border-ink bg-marigold text-on-marigold" : "border-line bg-porcelain"}`}
                  style={{ left: CENTRE + x * (DIAL + 8), top: CENTRE + y * (DIAL + 8) }}
                  onClick={() => {
                    setPlace(k);
                  }}
                >
                  {one === "" ? "·" : one}
                </button>
              );
            })}
          </div>
        </Keepable>
      </div>
      <NumberPad
        label={`Gap at ${hourWords(place, count)}`}
        unit="mm"
        value={read[place] ?? ""}
        onChange={put}
        onNext={() => {
          setPlace(nextPlace(text, count, place));
        }}
      />
    </div>
  );
}

/** Mean and first harmonic as an outline. */
function circle(mean: number, amplitude: number, widestDeg: number, radius: (gap: number) => number): string {
  const points = Array.from({ length: 73 }, (_, k) => {
    const angle = (2 * Math.PI * k) / 72;
    const gap = mean + amplitude * Math.cos(angle - (widestDeg * Math.PI) / 180);
    return `${(CENTRE + Math.sin(angle) * radius(gap)).toFixed(1)},${(CENTRE - Math.cos(angle) * radius(gap)).toFixed(1)}`;
  });
  return `M${points.join(" L")} Z`;
}
