import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { DecisionEvent } from '@/core/decisions/event.ts';
import { DecisionQueue, type RefusedEntry, type SaveState } from './decisionQueue.ts';

const EPISODE = '00000000-0000-4000-8000-0000000000aa';
const cut = (n: number): DecisionEvent => ({
  id: `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`,
  type: 'cut',
  about: { start: n, end: n + 1 },
});

/** A browser's storage, shared by all tabs. */
function storage(): Storage {
  const items: Record<string, string> = {};
  return new Proxy(items, {
    get: (target, name) =>
      ({
        getItem: (key: string) => target[key] ?? null,
        setItem: (key: string, value: string) => {
          target[key] = value;
        },
        removeItem: (key: string) => {
          delete target[key];
        },
      })[name as string] ?? target[name as string],
  }) as unknown as Storage;
}

/** A server that can be away, and counts what it is told. */
class FakeServer {
  up = true;
  refuses = false;
  /** entries that it will never take */
  never: ReadonlySet<string> = new Set();
  requests = 0;
  readonly log: DecisionEvent[] = [];
  readonly answer = async (_: string, options: RequestInit) => {
    if (!this.up) throw new TypeError('Failed to fetch');
    if (this.refuses) return Response.json({ error: 'That episode is not here any more.' }, { status: 404 });
    const { events } = JSON.parse(String(options.body)) as { events: DecisionEvent[] };
    this.requests++;
    if (events.some(({ id }) => this.never.has(id)))
      return Response.json({ error: 'The text holds a character that cannot be kept.' }, { status: 400 });
    for (const event of events) if (!this.log.some((known) => known.id === event.id)) this.log.push(event);
    return Response.json({ log: this.log.map((event, k) => ({ seq: k + 1, event })) });
  };
}

let server: FakeServer;
let states: SaveState[];
let refused: readonly RefusedEntry[];
const open = () =>
  new DecisionQueue(
    EPISODE,
    () => {},
    (state) => states.push(state),
    (entries) => {
      refused = entries;
    },
  );

beforeEach(() => {
  server = new FakeServer();
  states = [];
  refused = [];
  vi.useFakeTimers();
  vi.stubGlobal('localStorage', storage());
  vi.stubGlobal('fetch', server.answer);
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
const settle = () => vi.advanceTimersByTimeAsync(20_000);

describe('saving decisions', () => {
  it('says saving, then saved, and keeps nothing back', async () => {
    const queue = open();
    queue.add(cut(1));
    expect(states).toEqual(['saving']);
    await settle();
    expect(states.at(-1)).toBe('saved');
    expect(server.log).toEqual([cut(1)]);
    expect(Object.keys(localStorage)).toEqual([]);
    expect(queue.pending).toEqual([]);
  });

  it('waits while the server is away, says how many wait, and sends them in their order when it is back', async () => {
    server.up = false;
    const queue = open();
    for (const n of [1, 2, 3]) queue.add(cut(n));
    await settle();
    expect(states.at(-1)).toEqual({ queued: 3 });
    server.up = true;
    await settle();
    expect(server.log).toEqual([cut(1), cut(2), cut(3)]);
    expect(states.at(-1)).toBe('saved');
  });

  it('is taken over by the next tab when this one is closed', async () => {
    server.up = false;
    const closed = open();
    closed.add(cut(1));
    closed.add(cut(2));
    await settle();
    closed.close();
    server.up = true;
    const next = open();
    expect(next.pending).toEqual([cut(1), cut(2)]);
    next.send();
    await settle();
    expect(server.log).toEqual([cut(1), cut(2)]);
    expect(Object.keys(localStorage)).toEqual([]);
  });

  it('does not ask again and again for what the server refuses, and says why', async () => {
    server.refuses = true;
    const queue = open();
    queue.add(cut(1));
    await settle();
    expect(states.at(-1)).toEqual({ refused: 'That episode is not here any more.' });
    expect(queue.pending).toEqual([cut(1)]);
  });

  it('sets aside what is refused for good, with the reason, and sends all others in their order', async () => {
    server.never = new Set([cut(2).id, cut(5).id]);
    const queue = open();
    for (const n of [1, 2, 3, 4, 5, 6]) queue.add(cut(n));
    await settle();
    expect(server.log).toEqual([1, 3, 4, 6].map(cut));
    expect(states.at(-1)).toBe('saved');
    expect(queue.pending).toEqual([]);
    expect(refused).toMatchObject([
      { entry: cut(2), why: 'The text holds a character that cannot be kept.' },
      { entry: cut(5), why: 'The text holds a character that cannot be kept.' },
    ]);
    // One question for all, one for each of them, and none again.
    expect(server.requests).toBe(7);
    queue.add(cut(7));
    queue.add(cut(8));
    await settle();
    expect(server.requests).toBe(8);

    const next = open();
    expect(next.refused.map(({ entry }) => entry)).toEqual([cut(2), cut(5)]);
    next.discard(cut(2).id);
    expect(refused.map(({ entry }) => entry)).toEqual([cut(5)]);
    expect(open().refused.map(({ entry }) => entry)).toEqual([cut(5)]);
  });

  it('sends no more at once than the server takes', async () => {
    const long = (n: number): DecisionEvent => ({
      id: cut(n).id,
      type: 'correct',
      changes: Array.from({ length: 100 }, (_, k) => ({ about: { start: k, end: k + 1 }, text: 'tick '.repeat(399) })),
    });
    const queue = open();
    for (const n of [1, 2, 3, 4, 5]) queue.add(long(n));
    await settle();
    expect(server.requests).toBe(3);
    expect(server.log.map(({ id }) => id)).toEqual([1, 2, 3, 4, 5].map((n) => cut(n).id));
  });

  it('keeps apart what it cannot read in the storage', () => {
    localStorage.setItem(`zetemis.queue.${EPISODE}.x`, 'nonsense');
    const queue = open();
    expect(queue.pending).toEqual([]);
    expect(queue.refused).toMatchObject([{ id: 'x', why: 'This version of the program cannot read it.' }]);
  });
});
