import { Button } from "../../../ui/button";
import { Trouble } from "../../../ui/trouble";
import type { Live, TracePoint } from "./live-state";
import { adviceWords, isEnough, partWords, phaseWords, speedWords } from "./live-words";

/** Recording with this phone: the speed large, the one thing to do now, how far the test has come. */
export function LivePanel({
  first,
  live,
  start,
  stop,
}: {
  first: boolean;
  live: Live;
  start: () => void;
  stop: () => void;
}) {
  switch (live.status) {
    case "idle":
    case "refused":
      return (
        <div className="flex flex-wrap items-center gap-4">
          <Button weight={first ? "strong" : "plain"} onClick={start}>
            Record with this device
          </Button>
          <p className="min-w-48 flex-1 text-ink-soft">
            A phone hears and feels: lay it flat on the machine’s top, its head to the back, then start the spin. What
            it records is kept on it second by second.
          </p>
          {live.status === "refused" ? (
            <div className="w-full">
              <Trouble
                title={live.say}
                safe="Nothing that was recorded is lost."
                next="Files recorded otherwise can be chosen below."
              />
            </div>
          ) : null}
        </div>
      );
    case "asking":
      return <p role="status">Asking this device for its microphone and motion …</p>;
    case "recording":
      return <Recording live={live} stop={stop} />;
    default: {
      const never: never = live;
      return never;
    }
  }
}

function Recording({ live, stop }: { live: Extract<Live, { status: "recording" }>; stop: () => void }) {
  const { reading } = live;
  const speed = speedWords(reading);
  const danger = reading?.must_stop ?? false;
  return (
    <div className="sheet flex flex-col gap-4 p-4">
      <div className="grid grid-cols-[1fr_auto] items-end gap-4">
        <p>
          <span className="block font-mono text-7xl leading-none font-bold" aria-label="Speed now">
            {speed.rpm}
          </span>
          <span className="text-ink-soft">
            {speed.beside}
            {reading ? `, ${phaseWords(reading)}` : ""}
          </span>
        </p>
        <Button weight="strong" className="min-h-16" onClick={stop}>
          Stop recording
        </Button>
      </div>
      <div className={danger ? "hazard sheet py-3 pr-3" : ""} role={danger ? "alert" : "status"}>
        <p className="text-xl font-bold">{adviceWords(reading)}</p>
        {danger ? (
          <p>
            A walking machine can pull its drain hose off. Use its own switch; leave lid and interlocks as they are.
          </p>
        ) : null}
      </div>
      <Trace trace={live.trace} />
      <ol className="grid grid-cols-[repeat(auto-fit,minmax(9rem,1fr))] gap-3" aria-label="Parts of a full test">
        {(reading?.parts ?? []).map((part) => (
          <li key={part.name}>
            <span className="flex justify-between gap-2">
              <span>{partWords(part)}</span>
              <span aria-hidden="true">{isEnough(part) ? "✓" : ""}</span>
              <span className="sr-only">{isEnough(part) ? "enough" : "not yet enough"}</span>
            </span>
            <svg viewBox="0 0 100 8" preserveAspectRatio="none" className="mt-1 h-2 w-full" aria-hidden="true">
              <rect width="100" height="8" fill="var(--line)" />
              <rect
                width={100 * Math.min(1, part.seen_s / part.needed_s)}
                height="8"
                fill={isEnough(part) ? "var(--seaglass)" : "var(--ink)"}
              />
            </svg>
          </li>
        ))}
      </ol>
      <p className="font-mono text-sm text-ink-soft">
        {live.seconds.toFixed(0)} s
        {reading?.level_db != null ? ` · ${reading.level_db.toFixed(0)} dB(A) of full scale` : ""}
        {reading?.shake_m_s2 != null ? ` · cabinet ${reading.shake_m_s2.toFixed(1)} m/s², ${reading.shake ?? ""}` : ""}
      </p>
      <ul className="text-sm text-ink-soft">
        {live.isHeard ? null : <li>No connection: it goes on recording here, only the speed is not shown.</li>}
        {live.isFelt ? null : <li>This device feels no motion: sound alone is recorded.</li>}
        {live.isKept ? null : (
          <li>
            <strong>This device has no room left to keep it safe: stop soon and add it.</strong>
          </li>
        )}
      </ul>
    </div>
  );
}

const WIDTH = 600;
const HEIGHT = 96;
const LEAST_S = 60;
const LEAST_RPM = 400;
const HELD_POINTS = 8;

/** The speed so far, as a ribbon that grows to the right. */
function Trace({ trace }: { trace: TracePoint[] }) {
  const first_s = trace[0]?.t_s ?? 0;
  const last_s = Math.max(first_s + LEAST_S, trace.at(-1)?.t_s ?? 0);
  const top = Math.max(LEAST_RPM, ...trace.map((p) => p.rpm ?? 0)) * 1.1;
  const x = (t_s: number) => (WIDTH * (t_s - first_s)) / (last_s - first_s);
  const y = (rpm: number) => HEIGHT - (HEIGHT * rpm) / top;
  return (
    <figure>
      <figcaption className="flex justify-between gap-4 text-sm text-ink-soft">
        <span>{traceWords(trace)}</span>
        <span className="font-mono">{(last_s - first_s).toFixed(0)} s wide</span>
      </figcaption>
      <svg
        viewBox={`0 0 ${String(WIDTH)} ${String(HEIGHT)}`}
        preserveAspectRatio="none"
        className="h-24 w-full border-b-2 border-ink"
        role="img"
        aria-label={traceWords(trace)}
      >
        {pieces(trace).map((piece) => {
          const points = piece.map((p) => `${x(p.t_s).toFixed(1)},${y(p.rpm).toFixed(1)}`);
          const [begin, end] = [piece[0], piece.at(-1)];
          if (!begin || !end) return null;
          return (
            <polygon
              key={begin.t_s}
              points={[
                `${x(begin.t_s).toFixed(1)},${String(HEIGHT)}`,
                ...points,
                `${x(end.t_s).toFixed(1)},${String(HEIGHT)}`,
              ].join(" ")}
              fill="var(--ink)"
              fillOpacity="0.25"
              stroke="var(--ink)"
              vectorEffect="non-scaling-stroke"
            />
          );
        })}
      </svg>
    </figure>
  );
}

function pieces(trace: TracePoint[]): { t_s: number; rpm: number }[][] {
  const out: { t_s: number; rpm: number }[][] = [];
  let isOpen = false;
  for (const { t_s, rpm } of trace) {
    if (rpm === null) isOpen = false;
    else if (isOpen) out.at(-1)?.push({ t_s, rpm });
    else {
      out.push([{ t_s, rpm }]);
      isOpen = true;
    }
  }
  return out;
}

function traceWords(trace: TracePoint[]): string {
  // Held for two seconds: at the end of a ramp what is shown runs ahead for a moment.
  const held = trace.map((_, i) =>
    Math.min(...trace.slice(Math.max(0, i - HELD_POINTS), i + 1).map((p) => p.rpm ?? 0)),
  );
  const top = Math.max(0, ...held.slice(HELD_POINTS));
  return top > 0 ? `Speed so far, held up to ${top.toFixed(0)} rpm` : "Speed so far: none held yet";
}
