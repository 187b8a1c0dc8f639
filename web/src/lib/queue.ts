// What waits to be sent: kept on this device until the server has it, sent in order, and stored once, because
// each thing carries its own id. Each is kept by itself, so that two windows never write over each other.

/** One thing that waits. */
export interface Waiting {
  id: string;
  candidate: string;
  /** When it was entered; the order of sending. */
  at: string;
  /** Why the server would not have it; kept until the person says what to do. */
  refused?: string;
}

/** Where waiting things are kept between visits. */
export interface Shelf<T> {
  all(): Promise<T[]>;
  put(item: T): Promise<void>;
  drop(id: string): Promise<void>;
}

/** What became of a failed attempt: whether the same request may succeed later, and what to tell. */
export interface Failure {
  passing: boolean;
  message: string;
}

export interface QueueParts<T> {
  shelf: Shelf<T>;
  /** Stores one thing on the server. */
  send: (item: T) => Promise<void>;
  /** Takes one back that was stored. */
  takeBack?: (item: T) => Promise<void>;
  failure: (error: unknown) => Failure;
  retryMs: number;
  /** Tells other windows that the shelf changed. */
  announce?: () => void;
}

export interface QueueState<T> {
  waiting: readonly T[];
  /** Why sending does not go on, where it does not. */
  problem: string | null;
  /** Whether this device failed to keep something: it is lost when the page is closed before it is sent. */
  unkept: boolean;
}

export class Queue<T extends Waiting> {
  private state: QueueState<T> = { waiting: [], problem: null, unkept: false };
  private readonly listeners = new Set<() => void>();
  private readonly takenBack = new Set<string>();
  /** Things of this window that are not on the shelf yet. */
  private readonly unshelved = new Set<string>();
  private underway: string | null = null;
  private sending = false;

  constructor(private readonly parts: QueueParts<T>) {}

  readonly snapshot = (): QueueState<T> => this.state;

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  private change(next: Partial<QueueState<T>>) {
    this.state = { ...this.state, ...next };
    this.listeners.forEach((l) => l());
  }

  /** Reads what an earlier visit, or another window, left, and sends on. */
  async refresh(): Promise<void> {
    try {
      const kept = await this.parts.shelf.all();
      const own = this.state.waiting.filter((w) => this.unshelved.has(w.id) || w.id === this.underway);
      const held = new Set(own.map((w) => w.id));
      const waiting = [...own, ...kept.filter((k) => !held.has(k.id))];
      waiting.sort((a, b) => (a.at < b.at ? -1 : a.at > b.at ? 1 : 0));
      this.change({ waiting });
    } catch {
      // Without storage a thing is kept as long as the page is open.
      this.change({ unkept: this.state.waiting.length > 0 });
    }
    await this.send();
  }

  /** Keeps a thing and sends it as soon as that works. */
  add(item: T): void {
    this.unshelved.add(item.id);
    this.change({ waiting: [...this.state.waiting, item] });
    void this.keep(item);
    void this.send();
  }

  private async keep(item: T): Promise<void> {
    try {
      await this.parts.shelf.put(item);
      this.unshelved.delete(item.id);
      // Sent before it was kept: nothing is left behind.
      if (!this.state.waiting.some((w) => w.id === item.id)) await this.parts.shelf.drop(item.id);
      this.parts.announce?.();
    } catch {
      this.change({ unkept: this.state.waiting.length > 0 });
    }
  }

  private remove(id: string) {
    const waiting = this.state.waiting.filter((w) => w.id !== id);
    this.change({ waiting, unkept: this.state.unkept && waiting.length > 0 });
    this.parts.shelf.drop(id).then(
      () => this.parts.announce?.(),
      () => undefined,
    );
  }

  private replace(item: T) {
    this.change({ waiting: this.state.waiting.map((w) => (w.id === item.id ? item : w)) });
    void this.keep(item);
  }

  /** Sends everything that is not refused, one after another; tries again later where the server is away. */
  async send(): Promise<void> {
    if (this.sending) return;
    this.sending = true;
    const unsent = () => this.state.waiting.find((w) => w.refused === undefined);
    for (let next = unsent(); next; next = unsent()) {
      this.underway = next.id;
      try {
        await this.parts.send(next);
        if (this.takenBack.delete(next.id)) await this.parts.takeBack?.(next);
        this.remove(next.id);
        this.change({ problem: null });
      } catch (e) {
        const { passing, message } = this.parts.failure(e);
        if (passing) {
          this.change({ problem: message });
          setTimeout(() => void this.send(), this.parts.retryMs);
          break;
        }
        this.change({ problem: null });
        this.replace({ ...next, refused: message });
      }
    }
    this.underway = null;
    this.sending = false;
  }

  /**
   * Takes a waiting thing back: one that is on its way is stored first, so that nothing is lost. False where it
   * has been stored meanwhile: it is taken back there, under the same id.
   */
  takeBack(id: string): boolean {
    if (!this.state.waiting.some((w) => w.id === id)) return false;
    if (id === this.underway) this.takenBack.add(id);
    else this.remove(id);
    return true;
  }

  /** Sends a refused thing again. */
  retry(id: string): void {
    const item = this.state.waiting.find((w) => w.id === id);
    if (!item) return;
    const again = { ...item };
    delete again.refused;
    this.replace(again);
    void this.send();
  }

  /** Lets a refused thing go. */
  discard(id: string): void {
    this.remove(id);
  }
}
