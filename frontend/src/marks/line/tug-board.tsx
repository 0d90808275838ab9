import { Popover } from "radix-ui";
import { useState } from "react";

import type { Evidence, Suspect } from "../../api/client";
import { percent, signedDb } from "../../lib/format";
import { useWidth } from "../../lib/use-width";
import { Button } from "../../ui/button";
import { boardRange, hittable, layRope, type Pull, type Rope, stagesSaid } from "./tug";

const ROPE_HEIGHT = 44;
const SHOWN = 5;

/** Suspects as ropes: findings pull for or against, the knot stands where they sum to. */
export function TugBoard({
  suspects,
  under,
}: {
  suspects: readonly Suspect[];
  /** What stands below the story of a finding: what can be done about it. */
  under?: ((evidence: Evidence) => React.ReactNode) | undefined;
}) {
  const [all, setAll] = useState(false);
  const shown = all ? suspects : suspects.slice(0, SHOWN);
  const ropes = shown.map(layRope);
  const range = boardRange(ropes);
  const rest = suspects.length - SHOWN;
  return (
    <section aria-label="Tug board: what pulls for and against each suspect">
      <Legend />
      <ol>
        {ropes.map((rope, index) => (
          <RopeRow key={rope.suspect.fault} rope={rope} range={range} leads={index === 0} under={under} />
        ))}
      </ol>
      {rest > 0 ? (
        <Button
          weight="quiet"
          onClick={() => {
            setAll(!all);
          }}
          aria-expanded={all}
        >
          {all ? "Only the first five" : `${String(rest)} less likely faults`}
        </Button>
      ) : null}
    </section>
  );
}

function Legend() {
  return (
    <div className="flex flex-wrap gap-x-6 gap-y-1 pb-1 text-sm text-ink-soft" aria-hidden="true">
      <span className="flex items-center gap-2">
        <svg width="34" height="14">
          <Hatch id="legend-hatch" />
          <rect x="1" y="1" width="32" height="12" fill="url(#legend-hatch)" stroke="var(--seaglass)" strokeWidth="2" />
        </svg>
        clears
      </span>
      <span className="flex items-center gap-2">
        <svg width="34" height="14">
          <path d="M0 0 H26 L34 7 L26 14 H0 Z" fill="var(--persimmon)" />
        </svg>
        pulls for it
      </span>
      <span className="flex items-center gap-2">
        <svg width="16" height="14">
          <path d="M8 0 V8 M2 14 L8 6 L14 14 Z" fill="var(--ink)" stroke="var(--ink)" strokeWidth="2" />
        </svg>
        where it stands; the thin line is even odds
      </span>
    </div>
  );
}

function Hatch({ id }: { id: string }) {
  return (
    <defs>
      <pattern id={id} width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="6" height="6" fill="var(--porcelain)" />
        <rect width="2.4" height="6" fill="var(--seaglass)" />
      </pattern>
    </defs>
  );
}

type Under = ((evidence: Evidence) => React.ReactNode) | undefined;

function RopeRow({ rope, range, leads, under }: { rope: Rope; range: [number, number]; leads: boolean; under: Under }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const { suspect } = rope;
  const at = (db: number) => ((Math.min(Math.max(db, range[0]), range[1]) - range[0]) / (range[1] - range[0])) * width;
  return (
    <li className="grid grid-cols-[1fr_auto] items-center gap-x-4 border-t border-line py-2 lg:grid-cols-[11rem_1fr_8rem]">
      <div>
        <p className={leads ? "text-xl font-bold leading-tight" : "font-bold leading-tight"}>{suspect.short}</p>
        <p className="text-sm leading-snug text-ink-soft">{stagesSaid(suspect.stages) || suspect.name}</p>
      </div>
      <p
        className={`order-2 whitespace-nowrap text-right font-mono lg:order-3 ${leads ? "text-xl font-bold" : "text-base"}`}
      >
        {percent(suspect.probability)}
      </p>
      <div
        ref={ref}
        className="relative order-3 col-span-2 lg:order-2 lg:col-span-1"
        style={{ height: ROPE_HEIGHT + 14 }}
      >
        {width > 0 ? (
          <>
            <svg width={width} height={ROPE_HEIGHT + 14} aria-hidden="true" className="absolute inset-0">
              <line x1="0" x2={width} y1={ROPE_HEIGHT / 2} y2={ROPE_HEIGHT / 2} stroke="var(--line)" strokeWidth="2" />
              <line x1={at(0)} x2={at(0)} y1="0" y2={ROPE_HEIGHT} stroke="var(--ink-soft)" strokeWidth="1" />
            </svg>
            {hittable(rope, width / (range[1] - range[0])).pulls.map((pull) => (
              <PullMark key={pull.key} pull={pull} at={at} suspect={suspect} under={under} />
            ))}
            <svg
              width={width}
              height={ROPE_HEIGHT + 14}
              className="pointer-events-none absolute inset-0"
              aria-hidden="true"
            >
              <path
                d={`M${String(at(rope.knotDb))} 0 V9 M${String(at(rope.knotDb))} ${String(ROPE_HEIGHT - 9)} V${String(ROPE_HEIGHT)}`}
                stroke="var(--ink)"
                strokeWidth="3"
              />
              <path d={`M${String(at(rope.knotDb) - 8)} ${String(ROPE_HEIGHT + 12)} h16 l-8 -13 z`} fill="var(--ink)" />
            </svg>
          </>
        ) : null}
      </div>
    </li>
  );
}

function PullMark({
  pull,
  at,
  suspect,
  under,
}: {
  pull: Pull;
  at: (db: number) => number;
  suspect: Suspect;
  under: Under;
}) {
  const left = Math.min(at(pull.startDb), at(pull.endDb));
  const size = Math.abs(at(pull.endDb) - at(pull.startDb));
  const isFor = pull.decibans >= 0;
  const isPrior = pull.key === "prior";
  const tip = Math.min(9, size / 2);
  const top = 10;
  const height = ROPE_HEIGHT - 2 * top;
  const room = size - 10 > pull.label.length * 7.6;
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          className="absolute flex items-center justify-center overflow-visible"
          style={{ left, width: Math.max(size, 4), top: 0, height: ROPE_HEIGHT }}
        >
          <svg width={Math.max(size, 4)} height={ROPE_HEIGHT} aria-hidden="true" className="absolute inset-0">
            <Hatch id={`hatch-${suspect.fault}-${pull.key}`} />
            {isFor ? (
              <path
                d={`M1 ${String(top)} H${String(size - tip)} L${String(size)} ${String(ROPE_HEIGHT / 2)} L${String(size - tip)} ${String(top + height)} H1 L${String(1 + tip / 2)} ${String(ROPE_HEIGHT / 2)} Z`}
                fill="var(--persimmon)"
                stroke="var(--enamel)"
              />
            ) : (
              <rect
                x="1"
                y={top}
                width={Math.max(size - 2, 2)}
                height={height}
                fill={isPrior ? "var(--porcelain)" : `url(#hatch-${suspect.fault}-${pull.key})`}
                stroke={isPrior ? "var(--ink-soft)" : "var(--seaglass)"}
                strokeWidth="2"
                strokeDasharray={isPrior ? "4 3" : undefined}
              />
            )}
          </svg>
          <span
            className={
              room
                ? `relative truncate px-1 text-xs font-bold ${isFor ? "text-porcelain" : isPrior ? "text-ink-soft" : "bg-porcelain text-ink"}`
                : "sr-only"
            }
          >
            {pull.label}
          </span>
          <span className="sr-only">
            {pull.evidence ? `: ${pull.evidence.name}` : ""}, {signedDb(pull.decibans)} for {suspect.short}
          </span>
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content sideOffset={4} collisionPadding={12} className="sheet z-20 max-w-80 p-4 shadow-lg">
          <PullStory pull={pull} suspect={suspect} />
          {pull.evidence && under ? under(pull.evidence) : null}
          <Popover.Close className="mt-2 min-h-12 font-bold underline underline-offset-4">Close</Popover.Close>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

const SOURCES: Record<string, string> = { sound: "from the recording", hand: "by hand", story: "from the customer" };

function PullStory({ pull, suspect }: { pull: Pull; suspect: Suspect }) {
  const { evidence } = pull;
  return (
    <div className="flex flex-col gap-2">
      <p className="font-bold">
        {evidence ? evidence.name : pull.key === "prior" ? "How common it is" : "Small findings"}
      </p>
      <p>
        {evidence
          ? evidence.finding
          : pull.key === "prior"
            ? "Odds before anything was heard or felt, among visits to machines of this layout."
            : "Findings too small to draw one by one."}
      </p>
      {pull.parts ? (
        <ul className="list-disc pl-5 text-sm">
          {pull.parts.map((part) => (
            <li key={part.key}>
              {part.evidence ? part.evidence.finding : part.label}:{" "}
              <span className="font-mono">{signedDb(part.decibans)}</span>
            </li>
          ))}
        </ul>
      ) : null}
      <p className="font-mono">
        {signedDb(pull.decibans)} {pull.decibans >= 0 ? "for" : "against"} {suspect.short.toLowerCase()}
      </p>
      {evidence ? (
        <p className="text-sm text-ink-soft">
          Read as “{evidence.level}”, {SOURCES[evidence.source] ?? evidence.source}. {evidence.reason}
        </p>
      ) : null}
      <p className="text-sm text-ink-soft">10 dB make ten to one out of even odds.</p>
    </div>
  );
}
