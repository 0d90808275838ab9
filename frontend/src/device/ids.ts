/** A UUID of version 7: made on the device, it sorts by when it was made. */
export function uuid7(now_ms: number = Date.now()): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  let rest = now_ms;
  for (let i = 5; i >= 0; i -= 1) {
    bytes[i] = rest % 256;
    rest = Math.floor(rest / 256);
  }
  bytes[6] = ((bytes[6] ?? 0) & 0x0f) | 0x70;
  bytes[8] = ((bytes[8] ?? 0) & 0x3f) | 0x80;
  const hex = Array.from(bytes, (b) => b.toString(16).padStart(2, "0")).join("");
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join("-");
}

const NAME = "device-name";

/** A short name for this device, so that two of them can be told apart on one job. */
export function deviceName(): string {
  const kept = localStorage.getItem(NAME);
  if (kept) return kept;
  const kind = window.matchMedia("(pointer: coarse)").matches ? "phone" : "laptop";
  const name = `${kind} ${uuid7().slice(-4)}`;
  localStorage.setItem(NAME, name);
  return name;
}

/** Now, with this device's zone, as the diary wants it. */
export function nowWithZone(now: Date = new Date()): string {
  const ahead_min = -now.getTimezoneOffset();
  const local = new Date(now.getTime() + ahead_min * 60_000).toISOString().slice(0, -1);
  const sign = ahead_min < 0 ? "-" : "+";
  const [h, m] = [Math.floor(Math.abs(ahead_min) / 60), Math.abs(ahead_min) % 60];
  return `${local}${sign}${String(h).padStart(2, "0")}:${String(m).padStart(2, "0")}`;
}
