/** Something that went wrong somewhere, in words: what happened, what is safe, what to do next. */
export interface Notice {
  id: number;
  title: string;
  safe: string;
  next: string;
}

/** Troubles of the whole page, in one place. The same one is said once. */
export class Notices {
  private now: readonly Notice[] = [];
  private readonly told = new Set<() => void>();
  private count = 0;

  readonly snapshot = (): readonly Notice[] => this.now;

  readonly subscribe = (tell: () => void): (() => void) => {
    this.told.add(tell);
    return () => {
      this.told.delete(tell);
    };
  };

  add(notice: Omit<Notice, "id">): void {
    if (this.now.some((n) => n.title === notice.title)) return;
    this.count += 1;
    this.set([...this.now, { ...notice, id: this.count }]);
  }

  dismiss(id: number): void {
    this.set(this.now.filter((n) => n.id !== id));
  }

  private set(next: readonly Notice[]): void {
    this.now = next;
    for (const tell of this.told) tell();
  }
}

const KEPT = "What you entered and recorded is kept.";

/** What to say of a query or an action that failed; null where the lost signal is said elsewhere. */
export function noticeOf(error: Error, isAction: boolean): Omit<Notice, "id"> | null {
  const noSignal = error instanceof TypeError;
  if (noSignal && !isAction) return null;
  if (noSignal) {
    return { title: "The server does not answer.", safe: KEPT, next: "Try again when there is a signal." };
  }
  return { title: error.message, safe: KEPT, next: isAction ? "Try it again." : "It is tried again by itself." };
}
