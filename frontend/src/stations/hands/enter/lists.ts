/** A reading that is not there yet, in a list of readings separated by spaces. */
export const NOT_YET = "-";

/** Readings from what was typed, as many as wanted. */
export function readings(text: string, count: number): string[] {
  const given = text.split(/\s+/).filter((part) => part !== "");
  return Array.from({ length: count }, (_, k) => (given[k] === undefined || given[k] === NOT_YET ? "" : given[k]));
}

/** The list with one reading put in its place. */
export function withReading(text: string, count: number, place: number, value: string): string {
  const all = readings(text, count);
  all[place] = value;
  if (all.every((one) => one === "")) return "";
  return all.map((one) => (one === "" ? NOT_YET : one)).join(" ");
}

/** The place to read after this one: the next that is empty, else the next. */
export function nextPlace(text: string, count: number, place: number): number {
  const all = readings(text, count);
  for (let step = 1; step < count; step += 1) {
    const candidate = (place + step) % count;
    if (all[candidate] === "") return candidate;
  }
  return (place + 1) % count;
}

/** Where a place lies round a dial, the first on top, clockwise; x and y from -1 to 1. */
export function roundTheClock(place: number, count: number): { x: number; y: number } {
  const angle = (2 * Math.PI * place) / count;
  return { x: Math.sin(angle), y: -Math.cos(angle) };
}

/** Its hour, as on a clock's face, in words. */
export function hourWords(place: number, count: number): string {
  const twelfths = (12 * place) / count;
  const hour = Math.floor(twelfths) === 0 ? 12 : Math.floor(twelfths);
  const minutes = Math.round((twelfths % 1) * 60);
  return minutes === 0 ? `${String(hour)} o’clock` : `${String(hour)}:${String(minutes).padStart(2, "0")}`;
}
