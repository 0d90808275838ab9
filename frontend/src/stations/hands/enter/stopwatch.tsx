import { useEffect, useState } from "react";

import type { WidgetProps } from "../widgets";

const MINUTE_MS = 60_000;

/** Start and stop taps: how long it runs until it cuts out, and how long until it starts again. Outlives a reload. */
export function Stopwatch({ check, typed, onChange }: WidgetProps) {
  const [now, setNow] = useState(() => Date.now());
  const running = check.values.find((spec) => typed[`${spec.name}.since`] !== undefined);
  useEffect(() => {
    if (!running) return;
    const timer = setInterval(() => {
      setNow(Date.now());
    }, 1000);
    return () => {
      clearInterval(timer);
    };
  }, [running]);
  return (
    <div className="flex max-w-md flex-col gap-4">
      {check.values.map((spec) => {
        const since = typed[`${spec.name}.since`];
        const minutes = since === undefined ? null : (now - Number(since)) / MINUTE_MS;
        const start = () => {
          setNow(Date.now());
          onChange({ ...typed, [`${spec.name}.since`]: String(Date.now()) });
        };
        const stop = () => {
          const { [`${spec.name}.since`]: begun, ...rest } = typed;
          const took = (Date.now() - Number(begun)) / MINUTE_MS;
          onChange({ ...rest, [spec.name]: took.toFixed(1) });
        };
        return (
          <div key={spec.name} className="flex flex-col gap-2">
            <label className="flex items-baseline gap-3">
              <span className="font-bold">{spec.label}</span>
              <input
                inputMode="decimal"
                className="field max-w-28 text-right font-mono text-xl"
                value={minutes === null ? (typed[spec.name] ?? "") : minutes.toFixed(1)}
                readOnly={minutes !== null}
                onChange={(event) => {
                  onChange({ ...typed, [spec.name]: event.target.value });
                }}
              />
              <span>{spec.unit}</span>
            </label>
            <button
              type="button"
              className={`min-h-16 rounded-[2px_18px_2px_2px] border-2 border-ink text-lg font-bold ${minutes === null ? "bg-porcelain" : "bg-marigold text-on-marigold"}`}
              onClick={minutes === null ? start : stop}
            >
              {minutes === null ? `${spec.label}: begin` : `${spec.label}: now it ends`}
            </button>
          </div>
        );
      })}
    </div>
  );
}
