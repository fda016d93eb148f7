import type { LoggedEvent } from '@/core/contract/messages.ts';
import { type DecisionEvent, decisionEvent } from '@/core/decisions/event.ts';
import { ApiError, api } from '../../api.ts';

export type SaveState = 'saved' | 'saving' | { readonly queued: number } | { readonly refused: string };

const RETRY_MS = [500, 1000, 2000, 4000, 8000];
const MOST_AT_ONCE = 200;
/** What was decided is painted first, and what is decided together goes together. */
const GATHER_MS = 30;

/**
 * Takes decisions to the server in their order. Until the server has them they are kept in the browser's storage, one
 * key each, so that neither a reload nor another tab loses them; the server knows by their ids what it has already.
 */
export class DecisionQueue {
  private waiting: DecisionEvent[];
  private sending = false;
  private tries = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly episodeId: string,
    private readonly onLogged: (entries: readonly LoggedEvent[]) => void,
    private readonly onState: (state: SaveState) => void,
  ) {
    this.waiting = this.stored();
  }

  /** Decisions that the server does not have yet, oldest first. */
  get pending(): readonly DecisionEvent[] {
    return this.waiting;
  }

  add(event: DecisionEvent): void {
    localStorage.setItem(this.keyOf(event.id), JSON.stringify({ at: Date.now(), order: this.waiting.length, event }));
    this.waiting = [...this.waiting, event];
    this.send();
  }

  /** Tries now: at the start, and when the connection is back. */
  send(): void {
    clearTimeout(this.timer);
    if (this.sending || this.waiting.length === 0) return;
    void this.run();
  }

  close(): void {
    clearTimeout(this.timer);
  }

  private async run(): Promise<void> {
    this.sending = true;
    if (this.tries === 0) this.onState('saving');
    await new Promise((resolve) => setTimeout(resolve, GATHER_MS));
    const batch = this.waiting.slice(0, MOST_AT_ONCE);
    try {
      const { log } = await api.append(this.episodeId, batch);
      this.tries = 0;
      this.drop(batch);
      this.onLogged(log);
      this.onState(this.waiting.length > 0 ? 'saving' : 'saved');
    } catch (error) {
      if (error instanceof ApiError && error.status < 500) {
        // The server will never take these: keep the work visible, say so, and do not ask again and again.
        this.onState({ refused: error.message });
        this.sending = false;
        return;
      }
      this.onState({ queued: this.waiting.length });
      this.timer = setTimeout(() => this.send(), RETRY_MS[Math.min(this.tries++, RETRY_MS.length - 1)]);
      this.sending = false;
      return;
    }
    this.sending = false;
    this.send();
  }

  private drop(batch: readonly DecisionEvent[]): void {
    const done = new Set(batch.map((event) => event.id));
    this.waiting = this.waiting.filter((event) => !done.has(event.id));
    for (const id of done) localStorage.removeItem(this.keyOf(id));
  }

  private keyOf(id: string): string {
    return `zetemis.queue.${this.episodeId}.${id}`;
  }

  private stored(): DecisionEvent[] {
    const found: { at: number; order: number; event: DecisionEvent }[] = [];
    for (const key of Object.keys(localStorage)) {
      if (!key.startsWith(this.keyOf(''))) continue;
      try {
        const entry = JSON.parse(localStorage.getItem(key) ?? '');
        found.push({ ...entry, event: decisionEvent.parse(entry.event) });
      } catch {
        localStorage.removeItem(key);
      }
    }
    return found.sort((a, b) => a.at - b.at || a.order - b.order).map(({ event }) => event);
  }
}
