import { scaleLinear } from "d3-scale";
import { useEffect, useRef } from "react";

import type { Schemas } from "../../api/client";
import { useWidth } from "../../lib/use-width";

const HEIGHT = 260;
const LEFT = 46;
const FOOT = 34;
// Half a letter of a thread's name: it is moved in as far as the edge wants it.
const HALF_NAME_PX = 3.6;

export interface Thread {
  order: number;
  name: string;
}

/** Drum speed against order; the machine's expected lines lie on it as thin threads. */
export function OrderCarpet({
  carpet,
  threads,
  onHear,
}: {
  carpet: Schemas["OrderMapOut"];
  threads: readonly Thread[];
  onHear?: ((thread: Thread) => void) | undefined;
}) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const columns = carpet.db[0]?.length ?? 0;
  const x = scaleLinear([0, carpet.order_step * (columns + 0.5)], [LEFT, Math.max(width - 6, LEFT + 1)]);
  const top = carpet.rpm_edges.at(-1) ?? 1;
  const y = scaleLinear([0, top], [HEIGHT, 22]);
  useEffect(() => {
    const surface = canvas.current;
    const context = surface?.getContext("2d");
    if (!surface || !context || width === 0) return;
    const ratio = window.devicePixelRatio || 1;
    surface.width = width * ratio;
    surface.height = (HEIGHT + 4) * ratio;
    context.scale(ratio, ratio);
    context.clearRect(0, 0, width, HEIGHT + 4);
    context.fillStyle = getComputedStyle(surface).color;
    carpet.db.forEach((row, i) => {
      const y0 = y(carpet.rpm_edges[i + 1] ?? top);
      const y1 = y(carpet.rpm_edges[i] ?? 0);
      row.forEach((db, j) => {
        if (db === null) return;
        context.globalAlpha = shade(db);
        const x0 = x(carpet.order_step * (j + 0.5));
        context.fillRect(x0, y0, x(carpet.order_step * (j + 1.5)) - x0 + 0.5, y1 - y0 + 0.5);
      });
    });
  });
  return (
    <figure className="min-w-0">
      <figcaption className="font-bold">{carpetTitle(carpet)}</figcaption>
      <div ref={ref} className="relative" style={{ height: HEIGHT + FOOT }}>
        <canvas
          ref={canvas}
          className="absolute inset-0 text-ink"
          style={{ width, height: HEIGHT + 4 }}
          aria-hidden="true"
        />
        <svg
          width={width}
          height={HEIGHT + FOOT}
          className="absolute inset-0"
          role={onHear ? "group" : "img"}
          aria-label={`Order carpet. ${carpetTitle(carpet)}`}
        >
          {y.ticks(5).map((rpm) => (
            <text
              key={rpm}
              x={LEFT - 6}
              y={y(rpm) + 4}
              textAnchor="end"
              className="fill-ink-soft font-mono text-[11px]"
            >
              {rpm}
            </text>
          ))}
          {[1, 2, 3, 4, 5].map((order) => (
            <text
              key={order}
              x={x(order)}
              y={HEIGHT + 18}
              textAnchor="middle"
              className="fill-ink-soft font-mono text-[11px]"
            >
              {order}x
            </text>
          ))}
          <text x={LEFT} y={HEIGHT + 32} className="fill-ink-soft text-[11px]">
            times per drum turn
          </text>
          {threads.map((thread) => (
            <g key={thread.name} {...(onHear ? hearable(thread, onHear) : {})}>
              {onHear ? <rect x={x(thread.order) - 24} width="48" y="0" height={HEIGHT} fill="transparent" /> : null}
              <line
                x1={x(thread.order)}
                x2={x(thread.order)}
                y1="20"
                y2={HEIGHT}
                stroke="var(--persimmon)"
                strokeWidth="1.5"
                strokeDasharray="2 4"
              />
              <text
                x={Math.min(x(thread.order), width - HALF_NAME_PX * thread.name.length)}
                y="13"
                textAnchor="middle"
                className="fill-persimmon text-xs font-bold"
              >
                {thread.name}
              </text>
            </g>
          ))}
        </svg>
      </div>
      <p className="text-sm text-ink-soft">
        Up: drum speed in rpm. Darker: stronger vibration, 40 dB from bare to full.
        {onHear ? " Tap a thread to hear it alone." : ""}
      </p>
    </figure>
  );
}

/** A thread that can be tapped, or reached and pressed, to be heard. */
function hearable(thread: Thread, onHear: (thread: Thread) => void): React.SVGProps<SVGGElement> {
  return {
    role: "button",
    tabIndex: 0,
    "aria-label": `Hear ${thread.name} alone`,
    className: "cursor-pointer",
    onClick: () => {
      onHear(thread);
    },
    onKeyDown: (event) => {
      if (event.key === "Enter" || event.key === " ") {
        event.preventDefault();
        onHear(thread);
      }
    },
  };
}

/** Share of ink for a level over the carpet's middle: bare at the middle, full 40 dB above. */
function shade(db: number): number {
  return Math.min(1, Math.max(0, db / 40));
}

function carpetTitle(carpet: Schemas["OrderMapOut"]): string {
  const means = (carpet.db[0] ?? []).map((_, j) => {
    const column = carpet.db.map((row) => row[j] ?? null).filter((v): v is number => v !== null);
    return column.length === 0 ? -Infinity : column.reduce((a, b) => a + b, 0) / column.length;
  });
  const strongest = means.indexOf(Math.max(...means));
  const order = carpet.order_step * (strongest + 1);
  const name =
    Math.abs(order - Math.round(order)) < 0.13 ? `${String(Math.round(order))}x` : `order ${order.toFixed(1)}`;
  return `The vibration is strongest at ${name}`;
}
