import { EventEmitter, once } from 'node:events';
import { setTimeout as sleep } from 'node:timers/promises';
import pg from 'pg';
import { type ServerEvent, serverEvent } from '@/core/contract/messages.ts';
import { config } from './config.ts';
import { db, type Transaction } from './db/connection.ts';
import { GrowingWait } from './db/outage.ts';
import { log } from './log.ts';

const CHANNEL = 'zetemis';
/** Says within servers that something is there that somebody may wait for. */
const DONE_CHANNEL = 'zetemis_done';
/** A connection that is silently gone is noticed by asking something over it. */
const ASK_MS = 5000;

/** Tells every open page of every server on this database. In a transaction, only if and when it commits. */
export async function announce(event: ServerEvent, trx: Transaction | typeof db = db): Promise<void> {
  await trx.raw('select pg_notify(?, ?)', [CHANNEL, JSON.stringify(event)]);
}

/** Calls out that something is there; see `lookUntil`. In a transaction, only if and when it commits. */
export async function callOut(name: string, trx: Transaction | typeof db = db): Promise<void> {
  await trx.raw('select pg_notify(?, ?)', [DONE_CHANNEL, name]);
}

/** Whoever calls out may be missed, as when the database was away. */
const LOOK_AGAIN_MS = 500;
const called = new EventEmitter().setMaxListeners(0);

/**
 * Looks until there is something to be seen: at once, when its name is called out, and once in a while.
 * @returns undefined when nothing came for `patienceMs`
 */
export async function lookUntil<T>(name: string, look: () => Promise<T | undefined>, patienceMs: number): Promise<T | undefined> {
  keepListening();
  for (const until = Date.now() + patienceMs; Date.now() < until; ) {
    // Listened for before looking: what is called out while this looks counts.
    const over = new AbortController();
    const { signal } = over;
    const next = [once(called, name, { signal }), sleep(LOOK_AGAIN_MS, undefined, { signal })].map((one) => one.catch(() => {}));
    try {
      const seen = await look();
      if (seen !== undefined) return seen;
      await Promise.race(next);
    } finally {
      over.abort();
    }
  }
  return undefined;
}

type Listener = (event: ServerEvent) => void;
const listeners = new Set<Listener>();
let listening = false;

/**
 * Calls `listener` for each announced event until the returned function is called; with `missed` when the database was away,
 * since what was announced around that moment never came.
 */
export function subscribe(listener: Listener): () => void {
  listeners.add(listener);
  keepListening();
  return () => listeners.delete(listener);
}

const tell = (event: ServerEvent): void => {
  for (const listener of listeners) listener(event);
};

function keepListening(): void {
  if (!listening) void listenForEver();
}

async function listenForEver(): Promise<void> {
  listening = true;
  const wait = new GrowingWait();
  for (let isFirst = true; ; isFirst = false) {
    await listenUntilLost(() => {
      wait.reset();
      if (!isFirst) tell({ type: 'missed' });
    }).catch((error) => log.warn({ error: (error as Error).message }, 'lost the connection that carries events'));
    await wait.next();
  }
}

async function listenUntilLost(onListening: () => void): Promise<never> {
  const client = new pg.Client({ connectionString: config.DATABASE_URL, connectionTimeoutMillis: ASK_MS, query_timeout: ASK_MS });
  const lost = new Promise<never>((_, reject) => {
    client.once('error', reject);
    client.once('end', () => reject(new Error('the connection ended')));
  });
  lost.catch(() => {});
  client.on('notification', ({ channel, payload }) => {
    if (channel === DONE_CHANNEL) return void called.emit(payload ?? '');
    const event = serverEvent.safeParse(JSON.parse(payload ?? 'null'));
    if (event.success) tell(event.data);
  });
  try {
    await client.connect();
    await client.query(`listen ${CHANNEL}; listen ${DONE_CHANNEL}`);
    onListening();
    for (;;) {
      await Promise.race([lost, sleep(ASK_MS)]);
      await Promise.race([lost, client.query('select 1')]);
    }
  } finally {
    client.removeAllListeners();
    client.on('error', () => {});
    client.end().catch(() => {});
  }
}
