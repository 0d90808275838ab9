import type { Schemas } from "../../../api/client";

export type Reading = Schemas["LiveReadingOut"];

const TRY_AGAIN_MS = 2000;
/** More than a second that was not sent: the way is too slow, and what is shown would be old. */
const MOST_WAITING_BYTES = 200_000;

/**
 * The socket over which the server listens along. It is opened when sound comes and tried again when it breaks; what
 * comes while it is broken is not shown, only recorded.
 */
export class Line {
  private socket: WebSocket | null = null;
  private triedAt = 0;
  private isClosed = false;
  private isGreeted = false;

  constructor(
    private readonly url: string,
    private readonly rate_hz: number,
    private readonly onReadings: (readings: Reading[]) => void,
  ) {}

  get isOpen(): boolean {
    return this.socket?.readyState === WebSocket.OPEN;
  }

  /** A block of sound that began at a moment of the recording. */
  sendSound(block: ArrayBuffer, at_s: number): void {
    if (this.isClosed) return;
    if (this.socket === null || this.socket.readyState === WebSocket.CLOSED) this.open();
    if (!this.isOpen) return;
    if (!this.isGreeted) this.socket?.send(JSON.stringify({ audio_rate_hz: this.rate_hz, audio_start_s: at_s }));
    this.isGreeted = true;
    this.pass(block);
  }

  sendMotion(block: ArrayBuffer): void {
    if (this.isOpen && this.isGreeted) this.pass(block);
  }

  close(): void {
    this.isClosed = true;
    this.socket?.close();
  }

  private pass(block: ArrayBuffer): void {
    if (this.socket && this.socket.bufferedAmount > MOST_WAITING_BYTES) this.socket.close();
    else this.socket?.send(block);
  }

  private open(): void {
    if (Date.now() - this.triedAt < TRY_AGAIN_MS) return;
    this.triedAt = Date.now();
    this.isGreeted = false;
    this.socket = new WebSocket(this.url);
    this.socket.onmessage = (event: MessageEvent<string>) => {
      this.onReadings((JSON.parse(event.data) as Schemas["LiveAnswer"]).readings ?? []);
    };
  }
}

export function lineUrl(jobId: string): string {
  const scheme = window.location.protocol === "https:" ? "wss" : "ws";
  return `${scheme}://${window.location.host}/api/jobs/${jobId}/live`;
}
