import type { LoggedEvent } from '@/core/contract/messages.ts';
import { type DecisionEvent, decisionEvent } from '@/core/decisions/event.ts';
import { ApiError, api } from '../../api.ts';

export type SaveState = 'saved' | 'saving' | { readonly queued: number } | { readonly refused: string };

/** An entry that the server will never take, or that this version of the program cannot read. */
export interface RefusedEntry {
  readonly id: string;
  /** when it was decided, in milliseconds since 1970 */
  readonly at: number;
  readonly why: string;
  readonly entry: unknown;
}

const RETRY_MS = [500, 1000, 2000, 4000, 8000];
const MOST_AT_ONCE = 200;
/** Characters of JSON: the server takes a million. */
const MOST_CHARACTERS = 600_000;
/** What was decided is painted first, and what is decided together goes together. */
const GATHER_MS = 30;
/** Answers that are about the entries themselves, and not about who asks, when, or of what. */
const REFUSED_FOR_GOOD = new Set([400, 413, 422]);
/** Answers after which asking again is of use. */
const FOR_NOW = new Set([408, 429]);
const UNREADABLE = 'This version of the program cannot read it.';

/**
 * Takes decisions to the server in their order. Until the server has them they are kept in the browser's storage, one
 * key each, so that neither a reload nor another tab loses them; the server knows by their ids what it has already. What the
 * server refuses for good is set aside and kept apart: it never stands in the way of those behind it.
 */
export class DecisionQueue {
  private waiting: DecisionEvent[];
  private setAside: RefusedEntry[];
  private sending = false;
  private tries = 0;
  /** how many entries still go one at a time, to find the one that is refused among them */
  private alone = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly episodeId: string,
    private readonly onLogged: (entries: readonly LoggedEvent[]) => void,
    private readonly onState: (state: SaveState) => void,
    private readonly onRefused: (entries: readonly RefusedEntry[]) => void,
  ) {
    this.setAside = this.storedRefused();
    this.waiting = this.stored();
  }

  /** Decisions that the server does not have yet, oldest first. */
  get pending(): readonly DecisionEvent[] {
    return this.waiting;
  }

  get refused(): readonly RefusedEntry[] {
    return this.setAside;
  }

  add(event: DecisionEvent): void {
    keep(this.keyOf(event.id), { at: Date.now(), order: this.waiting.length, event });
    this.waiting = [...this.waiting, event];
    this.send();
  }

  /** Tries now: at the start, and when the connection is back. */
  send(): void {
    clearTimeout(this.timer);
    if (this.sending || this.waiting.length === 0) return;
    void this.run();
  }

  /** Forgets an entry that was refused. */
  discard(id: string): void {
    localStorage.removeItem(this.keyOfRefused(id));
    this.setAside = this.setAside.filter((entry) => entry.id !== id);
    this.onRefused(this.setAside);
  }

  close(): void {
    clearTimeout(this.timer);
  }

  private async run(): Promise<void> {
    this.sending = true;
    if (this.tries === 0) this.onState('saving');
    await new Promise((resolve) => setTimeout(resolve, GATHER_MS));
    const batch = this.alone > 0 ? this.waiting.slice(0, 1) : batchOf(this.waiting);
    try {
      const { log } = await api.append(this.episodeId, batch);
      this.settle(batch);
      this.onLogged(log);
    } catch (error) {
      this.sending = false;
      this.takeError(error, batch);
      return;
    }
    this.sending = false;
    this.onState(this.waiting.length > 0 ? 'saving' : 'saved');
    this.send();
  }

  private takeError(error: unknown, batch: readonly DecisionEvent[]): void {
    if (error instanceof ApiError && REFUSED_FOR_GOOD.has(error.status)) {
      if (batch.length > 1) this.alone = batch.length;
      else this.refuse(batch, error.message);
      this.onState(this.waiting.length > 0 ? 'saving' : 'saved');
      this.send();
    } else if (error instanceof ApiError && error.status < 500 && !FOR_NOW.has(error.status)) {
      // Not about these entries: the episode has gone, or nobody is signed in. They wait, and it is said.
      this.onState({ refused: error.message });
    } else {
      this.onState({ queued: this.waiting.length });
      this.timer = setTimeout(() => this.send(), RETRY_MS[Math.min(this.tries++, RETRY_MS.length - 1)]);
    }
  }

  /** The server has these, or never will. */
  private settle(batch: readonly DecisionEvent[]): void {
    this.tries = 0;
    this.alone = Math.max(0, this.alone - batch.length);
    const done = new Set(batch.map((event) => event.id));
    this.waiting = this.waiting.filter((event) => !done.has(event.id));
    for (const id of done) localStorage.removeItem(this.keyOf(id));
  }

  private refuse(batch: readonly DecisionEvent[], why: string): void {
    for (const entry of batch) this.putAside({ id: entry.id, at: Date.now(), why, entry });
    this.settle(batch);
    this.onRefused(this.setAside);
  }

  private putAside(refused: RefusedEntry): void {
    keep(this.keyOfRefused(refused.id), refused);
    this.setAside = [...this.setAside, refused];
  }

  private keyOf(id: string): string {
    return `zetemis.queue.${this.episodeId}.${id}`;
  }

  private keyOfRefused(id: string): string {
    return `zetemis.refused.${this.episodeId}.${id}`;
  }

  private stored(): DecisionEvent[] {
    const found: { at: number; order: number; event: DecisionEvent }[] = [];
    for (const [key, entry] of storedUnder(this.keyOf(''))) {
      const event = decisionEvent.safeParse(entry?.event);
      if (event.success) found.push({ at: Number(entry?.at), order: Number(entry?.order), event: event.data });
      else {
        localStorage.removeItem(key);
        this.putAside({ id: key.slice(this.keyOf('').length), at: Date.now(), why: UNREADABLE, entry: entry?.event ?? null });
      }
    }
    return found.sort((a, b) => a.at - b.at || a.order - b.order).map(({ event }) => event);
  }

  private storedRefused(): RefusedEntry[] {
    return storedUnder(this.keyOfRefused('')).map(([key, entry]) => ({
      id: key.slice(this.keyOfRefused('').length),
      at: Number(entry?.at),
      why: String(entry?.why),
      entry: entry?.entry,
    }));
  }
}

/** As many from the front as the server takes at once. */
function batchOf(waiting: readonly DecisionEvent[]): DecisionEvent[] {
  let characters = 0;
  const few = waiting.slice(0, MOST_AT_ONCE);
  const until = few.findIndex((event, k) => {
    characters += JSON.stringify(event).length;
    return characters > MOST_CHARACTERS && k > 0;
  });
  return until < 0 ? few : few.slice(0, until);
}

/** Where the browser's storage is full, what waits is kept by the page alone. */
function keep(key: string, value: unknown): void {
  try {
    localStorage.setItem(key, JSON.stringify(value));
  } catch (error) {
    if ((error as Error).name !== 'QuotaExceededError') throw error;
  }
}

function storedUnder(prefix: string): [key: string, entry: Record<string, unknown> | null][] {
  return Object.keys(localStorage)
    .filter((key) => key.startsWith(prefix))
    .map((key) => {
      try {
        return [key, JSON.parse(localStorage.getItem(key) ?? 'null')];
      } catch {
        return [key, null];
      }
    });
}
