import type { Curves } from "../../../api/client";

/** One way to hear a stretch: what it is called, what to listen for, and what the server is asked. */
export interface EarWay {
  key: string;
  title: string;
  says: string;
  ask: Record<string, string | number | readonly number[]>;
}

export interface Stretch {
  begin_s: number;
  end_s: number;
  rpm: number | null;
}

const STRETCH_S = 4;
const TICKS = { low_hz: 2000, high_hz: 9000 };
const KNOCKS = { low_hz: 200, high_hz: 2000 };
const THUMPS = { low_hz: 50, high_hz: 200 };
export const TIMES_SLOWER = 4;

/** The stretch around a moment; without one, from the middle of the longest time at full speed. */
export function stretchAt(curves: Curves, cursor_s: number | null): Stretch {
  const times = (curves.t_s ?? []).filter((t): t is number => t !== null);
  const first = times[0] ?? 0;
  const last = Math.max(times.at(-1) ?? 0, first + STRETCH_S);
  const middle = cursor_s ?? middleOfFullSpeed(curves) ?? (first + last) / 2;
  const begin_s = Math.min(Math.max(first, middle - STRETCH_S / 2), last - STRETCH_S);
  return { begin_s, end_s: begin_s + STRETCH_S, rpm: rpmAt(curves, begin_s + STRETCH_S / 2) };
}

function middleOfFullSpeed(curves: Curves): number | null {
  const plateaus = (curves.phases ?? []).filter((phase) => phase.name === "plateau");
  const longest = plateaus.sort((a, b) => b.end_s - b.start_s - (a.end_s - a.start_s))[0];
  return longest ? (longest.start_s + longest.end_s) / 2 : null;
}

function rpmAt(curves: Curves, t_s: number): number | null {
  const times = curves.t_s ?? [];
  let best = 0;
  times.forEach((t, i) => {
    if (Math.abs((t ?? Infinity) - t_s) < Math.abs((times[best] ?? Infinity) - t_s)) best = i;
  });
  return curves.rpm?.[best] ?? null;
}

export function stretchWords(stretch: Stretch): string {
  const speed = stretch.rpm === null ? "where the speed is not known" : `near ${stretch.rpm.toFixed(0)} rpm`;
  return `${STRETCH_S.toFixed(0)} s from ${stretch.begin_s.toFixed(1)} s, ${speed}`;
}

/** All ways that this spin allows; `other` is a visit to hear it beside. */
export function earWays(curves: Curves, other: { job_id: string; title: string; words: string } | null): EarWay[] {
  const line = curves.envelope?.lines.find((found) => found.false_alarm < 0.05);
  const [low_hz, high_hz] = curves.envelope?.band_hz ?? [];
  const band = low_hz !== undefined && high_hz !== undefined ? { low_hz, high_hz } : TICKS;
  const ways: EarWay[] = [
    {
      key: "as_recorded",
      title: "As recorded",
      says: "The stretch as the phone heard it.",
      ask: { way: "as_recorded" },
    },
    {
      key: "without_orders",
      title: "Without what turns",
      says: "Tones of drum and motor taken out: what is left is noise, bearings, knocks and talk.",
      ask: { way: "without_orders" },
    },
    {
      key: "orders",
      title: "Only what turns",
      says: "Tones of drum and motor alone, the noise taken out.",
      ask: { way: "orders" },
    },
    { key: "ticks", title: "Ticks", says: "2 to 9 kHz: ticks, scrapes and bearings.", ask: { way: "band", ...TICKS } },
    {
      key: "knocks",
      title: "Knocks",
      says: "200 to 2000 Hz: loose parts and hard knocks.",
      ask: { way: "band", ...KNOCKS },
    },
    {
      key: "thumps",
      title: "Thumps",
      says: "50 to 200 Hz: the tub against its stops. Use headphones.",
      ask: { way: "band", ...THUMPS },
    },
    {
      key: "slowed",
      title: `${TIMES_SLOWER.toFixed(0)} times slower`,
      says: "Slower at the same pitch: single blows come apart.",
      ask: { way: "slowed", times: TIMES_SLOWER },
    },
    {
      key: "envelope",
      title: "Rumble on a tone",
      says: line
        ? `How ${kilohertz(band.low_hz)} to ${kilohertz(band.high_hz)} kHz swell and fall, on a tone: the ${line.race} race passes ${line.order.toFixed(2)} times a turn.`
        : `How ${kilohertz(band.low_hz)} to ${kilohertz(band.high_hz)} kHz swell and fall, on a tone. A good bearing only hisses.`,
      ask: { way: "envelope", ...band },
    },
    {
      key: "one_turn",
      title: "One turn, again and again",
      says: "A single turn of the drum, repeated: what belongs to the drum comes at the same beat.",
      ask: { way: "one_turn" },
    },
  ];
  if (other) {
    ways.push({
      key: "beside",
      title: other.title,
      says: `This spin and ${other.words} in turns, at one loudness, this one first.`,
      ask: { way: "beside", beside: other.job_id },
    });
  }
  return ways;
}

/** One multiple of the drum's rate, too low for an ear, as the beat of a tone. */
export function beatWay(order: number, name: string, rpm: number | null): EarWay {
  const rate = rpm === null ? "" : `, ${((order * rpm) / 60).toFixed(0)} a second`;
  return {
    key: `beat-${name}`,
    title: `${name} on a tone`,
    says: `What comes ${order.toFixed(0)} times a turn${rate}, as the beat of a tone.`,
    ask: { way: "beat", order: [order] },
  };
}

export function listenUrl(jobId: string, way: EarWay, stretch: Stretch): string {
  const query = new URLSearchParams({ begin_s: stretch.begin_s.toFixed(3), end_s: stretch.end_s.toFixed(3) });
  for (const [name, value] of Object.entries(way.ask)) {
    for (const one of Array.isArray(value) ? value : [value]) query.append(name, String(one));
  }
  return `/api/jobs/${jobId}/listen?${query.toString()}`;
}

/** How far it was raised, in words; nothing where it is as loud as it was. */
export function raisedWords(raised_db: number): string {
  if (Math.abs(raised_db) < 1) return "";
  return raised_db > 0
    ? `Raised by ${raised_db.toFixed(0)} dB to be heard.`
    : `Lowered by ${(-raised_db).toFixed(0)} dB.`;
}

function kilohertz(hz: number): string {
  return (hz / 1000).toFixed(hz < 10_000 ? 1 : 0);
}
