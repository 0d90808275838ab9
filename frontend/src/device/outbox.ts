import { type Job, ServerSaid } from "../api/client";
import type { AnyEntry } from "./entries";
import { NoSignal, type Written } from "./sending";
import type { DeviceStore, Opens, Refusal, WaitingEntry, WaitingFile } from "./store";

/** What waits on this device; `sending` is the file under way, `state` what the outbox is doing about it. */
export interface Waiting {
  entries: readonly WaitingEntry[];
  files: readonly WaitingFile[];
  sending: { id: string; share: number } | null;
  state: "idle" | "sending" | "no_signal";
  /** What the server said of this device's clock, if it is off. */
  clock: string | null;
  /** What was entered last on this page, to be taken back at once. */
  last: { jobId: string; entries: readonly AnyEntry[] } | null;
}

export interface Post {
  sendEntries: (jobId: string, waiting: readonly WaitingEntry[]) => Promise<Written>;
  sendFile: (file: WaitingFile, onProgress: (share: number) => void, signal: AbortSignal) => Promise<void>;
}

const AT_ONCE = 100;
const AGAIN_MS = 4000;
const LOCK = "eager-ear-outbox";
// Kinds of which every key is a fact by itself: said anew, it is the newer word.
const FACTS: readonly string[] = ["machine", "contact"];

/**
 * Entries and bytes that were made here, kept until the server has them, sent in order whenever it answers.
 * Nothing leaves the device's store before the server has said that it has it.
 */
export class Outbox {
  private now: Waiting = { entries: [], files: [], sending: null, state: "idle", clock: null, last: null };
  private readonly told = new Set<() => void>();
  private running: Promise<void> | null = null;
  private timer: ReturnType<typeof setTimeout> | null = null;
  private stopping: AbortController | null = null;

  constructor(
    private readonly store: Promise<DeviceStore>,
    private readonly post: Post,
    private readonly onWritten: (job: Job) => Promise<void> | void,
  ) {}

  readonly snapshot = (): Waiting => this.now;

  readonly subscribe = (tell: () => void): (() => void) => {
    this.told.add(tell);
    return () => {
      this.told.delete(tell);
    };
  };

  /** Begin: read what an earlier page left, and send it when there is a signal. Returns its undo. */
  start(): () => void {
    const flush = () => {
      void this.flush();
    };
    window.addEventListener("online", flush);
    void this.reload().then(flush);
    return () => {
      window.removeEventListener("online", flush);
      if (this.timer) clearTimeout(this.timer);
    };
  }

  /** Keep entries of a job; resolves once they are kept, which is before they are sent. */
  async write(jobId: string, entries: readonly AnyEntry[], opens: Opens = false): Promise<void> {
    const store = await this.store;
    const keeping = store.transaction("entries", "readwrite");
    for (const entry of entries) await keeping.store.add({ jobId, opens, entry });
    await keeping.done;
    await this.letGoOfRefused(jobId, entries);
    const stands = entries.filter((entry) => entry.body != null);
    this.tell({ last: stands.length > 0 ? { jobId, entries: stands } : null });
    await this.reload();
    void this.flush();
  }

  /** What was refused and is now said anew, fact by fact, need not be let go by hand. */
  private async letGoOfRefused(jobId: string, entries: readonly AnyEntry[]): Promise<void> {
    const said = entries
      .filter((e) => FACTS.includes(e.kind))
      .flatMap((e) => Object.keys(e.body ?? {}).map((key) => `${e.kind} body.${key}`));
    const over = this.now.entries.filter(
      (w) => w.jobId === jobId && w.refused?.field && said.includes(`${w.entry.kind} ${w.refused.field}`),
    );
    const store = await this.store;
    for (const { key } of over) if (key !== undefined) await store.delete("entries", key);
  }

  /** Keep bytes with the entry that names them; resolves once they are kept. */
  async keepFile(file: WaitingFile): Promise<void> {
    await (await this.store).put("files", file);
    await this.reload();
    void this.flush();
  }

  /** Stop sending a file, or forget one that was refused. */
  async drop(fileId: string): Promise<void> {
    if (this.now.sending?.id === fileId) this.stopping?.abort();
    await (await this.store).delete("files", fileId);
    await this.reload();
  }

  /** Forget an entry that was refused. */
  async dropEntry(key: number): Promise<void> {
    await (await this.store).delete("entries", key);
    await this.reload();
  }

  /** Try a refused file again. */
  async retry(fileId: string): Promise<void> {
    const store = await this.store;
    const file = await store.get("files", fileId);
    if (file) await store.put("files", { ...file, refused: undefined });
    await this.reload();
    await this.flush();
  }

  /** Send what waits; one at a time, also between several pages of this device. */
  flush(): Promise<void> {
    this.running ??= this.locked().finally(() => {
      this.running = null;
    });
    return this.running;
  }

  private async locked(): Promise<void> {
    if (!navigator.locks) return this.sendAll();
    await navigator.locks.request(LOCK, () => this.sendAll());
  }

  private async sendAll(): Promise<void> {
    await this.reload();
    try {
      for (let sent = true; sent;) {
        sent = (await this.sendSomeEntries()) || (await this.sendOneFile());
      }
      this.tell({ state: "idle", sending: null });
    } catch (reason) {
      if (!(reason instanceof NoSignal)) throw reason;
      this.tell({ state: "no_signal", sending: null });
      if (this.timer) clearTimeout(this.timer);
      this.timer = setTimeout(() => void this.flush(), AGAIN_MS);
    }
  }

  /** The oldest entries of one job; false where none waits. */
  private async sendSomeEntries(): Promise<boolean> {
    const first = this.now.entries.find((w) => !w.refused);
    if (!first) return false;
    const batch = this.now.entries.filter((w) => w.jobId === first.jobId && !w.refused).slice(0, AT_ONCE);
    this.tell({ state: "sending" });
    try {
      const written = await this.post.sendEntries(first.jobId, batch);
      await this.settle(batch, written);
    } catch (reason) {
      if (!(reason instanceof ServerSaid)) throw reason;
      await this.refuse(batch, { message: reason.message, field: null });
    }
    await this.reload();
    return true;
  }

  private async settle(batch: readonly WaitingEntry[], written: Written): Promise<void> {
    const store = await this.store;
    const taking = store.transaction("entries", "readwrite");
    for (const [i, waiting] of batch.entries()) {
      const { problem } = written.entries[i] ?? {};
      if (problem) await taking.store.put({ ...waiting, refused: { message: problem.message, field: problem.field } });
      else if (waiting.key !== undefined) await taking.store.delete(waiting.key);
    }
    await taking.done;
    this.tell({ clock: written.clock?.message ?? null });
    // Before what was sent is let go of: what is shown has it either from here or from the server.
    await this.onWritten(written.job);
  }

  private async refuse(batch: readonly WaitingEntry[], refused: Refusal): Promise<void> {
    const store = await this.store;
    for (const waiting of batch) await store.put("entries", { ...waiting, refused });
  }

  /** The oldest file, then its entry; false where none waits. */
  private async sendOneFile(): Promise<boolean> {
    const file = this.now.files.find((w) => !w.refused);
    if (!file) return false;
    const store = await this.store;
    this.stopping = new AbortController();
    this.tell({ state: "sending", sending: { id: file.id, share: 0 } });
    try {
      await this.post.sendFile(
        file,
        (share) => {
          this.tell({ sending: { id: file.id, share } });
        },
        this.stopping.signal,
      );
      const moving = store.transaction(["entries", "files"], "readwrite");
      await moving.objectStore("entries").add({ jobId: file.jobId, opens: false, entry: file.entry });
      await moving.objectStore("files").delete(file.id);
      await moving.done;
    } catch (reason) {
      if (!(reason instanceof ServerSaid)) throw reason;
      if (reason.code !== "stopped") {
        const { message, table } = reason;
        await store.put("files", { ...file, refused: { message, field: null, table } });
      }
    } finally {
      this.tell({ sending: null });
    }
    await this.reload();
    return true;
  }

  private async reload(): Promise<void> {
    const store = await this.store;
    const [entries, files] = await Promise.all([store.getAll("entries"), store.getAll("files")]);
    this.tell({ entries, files: files.sort((a, b) => (a.id < b.id ? -1 : 1)) });
  }

  private tell(change: Partial<Waiting>): void {
    this.now = { ...this.now, ...change };
    for (const tell of this.told) tell();
  }
}
