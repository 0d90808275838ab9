import type { Job, PlannedStep } from "../../api/client";
import { type AnyEntry, entryOf } from "../../device/entries";
import { words } from "../../lib/format";
import { tallyOf, type Way } from "./strip-state";

type Group = PlannedStep["fasteners"][number];

/** The cells of the tray that belong to a step: a tap for each screw, out or in. */
export function Tray({
  job,
  planned,
  way,
  onCount,
}: {
  job: Job;
  planned: PlannedStep;
  way: Way;
  onCount: (entry: AnyEntry) => void;
}) {
  const { step } = planned;
  if (step === null || planned.fasteners.length === 0) return null;
  return (
    <section aria-label="Tray" className="flex flex-col gap-3">
      {planned.fasteners.map((group) => (
        <Cell
          key={group.group}
          group={group}
          way={way}
          out={tallyOf(job, step, group.group).out}
          into={tallyOf(job, step, group.group).into}
          onCount={(count) => {
            const body = { step, group: group.group, ...(way === "off" ? { out: count } : { in: count }) };
            onCount(entryOf("counted", body));
          }}
        />
      ))}
    </section>
  );
}

function Cell({
  group,
  way,
  out,
  into,
  onCount,
}: {
  group: Group;
  way: Way;
  out: number | null;
  into: number | null;
  onCount: (count: number) => void;
}) {
  const now = (way === "off" ? out : into) ?? 0;
  const asked = way === "off" ? `${String(group.least)} to ${String(group.most)}` : String(out ?? "not counted");
  const left = way === "on" && out !== null ? out - now : null;
  return (
    <div className="flex flex-wrap items-center gap-3">
      <button
        type="button"
        className="relative flex min-h-24 w-40 flex-col items-center justify-center border-4 border-ink bg-porcelain"
        onClick={() => {
          onCount(now + 1);
        }}
      >
        <span className="absolute left-1 top-0 text-sm">cell {group.cell}</span>
        <Pieces count={way === "off" ? now : Math.max(0, (out ?? 0) - now)} />
        <span className="font-mono text-3xl font-bold">{now}</span>
        <span className="sr-only">
          {words(group.group)}: one more {way === "off" ? "out" : "in"}
        </span>
      </button>
      <div>
        <p className="font-bold">
          {words(group.group)}: {group.kind}
          {group.most === 1 ? "" : "s"}
        </p>
        <p>
          {group.drive}; {way === "off" ? "usually" : "came out"} {asked}
        </p>
        {left !== null && left > 0 ? <p className="font-bold">{left} still in the cell</p> : null}
        {left !== null && left < 0 ? <p className="font-bold">{-left} more than came out: count again</p> : null}
        {now > 0 ? (
          <button
            type="button"
            className="min-h-12 underline underline-offset-4"
            onClick={() => {
              onCount(now - 1);
            }}
          >
            one less
          </button>
        ) : null}
      </div>
    </div>
  );
}

/** What lies in a cell, up to a score of pieces. */
function Pieces({ count }: { count: number }) {
  return (
    <svg viewBox="0 0 100 24" className="w-28" aria-hidden="true">
      {Array.from({ length: Math.min(20, count) }, (_, i) => (
        <circle key={i} cx={6 + (i % 10) * 9.8} cy={i < 10 ? 7 : 17} r="3.6" fill="var(--ink)" />
      ))}
    </svg>
  );
}

/** The order of tightening on the drum clock: where the next screw is. */
export function TighteningClock({ order, done }: { order: readonly number[]; done: number }) {
  const count = order.length;
  const next = order[Math.min(done, count - 1)] ?? 0;
  const at = (place: number, radius: number) => {
    const angle = (2 * Math.PI * place) / count;
    return { x: 110 + radius * Math.sin(angle), y: 110 - radius * Math.cos(angle) };
  };
  return (
    <svg
      viewBox="0 0 220 220"
      className="w-full max-w-60"
      role="img"
      aria-label={`Order of tightening: ${order.map((p) => String(p + 1)).join(", ")}, counted clockwise from the top`}
    >
      <circle cx="110" cy="110" r="80" fill="var(--porcelain)" stroke="var(--ink)" strokeWidth="3" />
      {order.map((place, turn) => {
        const screw = at(place, 80);
        const label = at(place, 58);
        const tight = turn < done;
        return (
          <g key={place}>
            <circle
              cx={screw.x}
              cy={screw.y}
              r={place === next && !tight ? 13 : 9}
              fill={tight ? "var(--ink)" : place === next ? "var(--marigold)" : "var(--porcelain)"}
              stroke="var(--ink)"
              strokeWidth="2.5"
            />
            <text x={label.x} y={label.y + 5} textAnchor="middle" fontSize="14" fill="var(--ink)" fontWeight="700">
              {turn + 1}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
