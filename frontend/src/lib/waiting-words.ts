import type { Waiting } from "../device/outbox";

/** What waits on this device, in a sentence; null where nothing does. */
export function waitingWords(waiting: Waiting): string | null {
  const entries = waiting.entries.filter((w) => !w.refused).length;
  const files = waiting.files.filter((w) => !w.refused).length;
  if (entries + files === 0) return waiting.state === "no_signal" ? "No signal. Nothing waits on this device." : null;
  const parts = [counted(entries, "entry", "entries"), counted(files, "recording", "recordings")].filter(
    (p) => p !== "",
  );
  const what = parts.join(" and ");
  const waits = entries + files === 1 ? "waits" : "wait";
  if (waiting.state === "no_signal") return `No signal. ${capital(what)} ${waits} on this device and will be sent.`;
  const share = waiting.sending ? `, ${String(Math.round(100 * waiting.sending.share))}\u00a0%` : "";
  return `Sending ${what}${share} …`;
}

function counted(count: number, one: string, many: string): string {
  return count === 0 ? "" : `${String(count)} ${count === 1 ? one : many}`;
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
