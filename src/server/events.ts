import pg from 'pg';
import { type ServerEvent, serverEvent } from '@/core/contract/messages.ts';
import { config } from './config.ts';
import { db, type Transaction } from './db/connection.ts';
import { log } from './log.ts';

const CHANNEL = 'zetemis';
const RECONNECT_MS = 1000;

/** Tells every open page of every server on this database. In a transaction, only if and when it commits. */
export async function announce(event: ServerEvent, trx: Transaction | typeof db = db): Promise<void> {
  await trx.raw('select pg_notify(?, ?)', [CHANNEL, JSON.stringify(event)]);
}

type Listener = (event: ServerEvent) => void;
const listeners = new Set<Listener>();
let connected = false;

/** Calls `listener` for each announced event until the returned function is called. */
export function subscribe(listener: Listener): () => void {
  listeners.add(listener);
  if (!connected) connect();
  return () => listeners.delete(listener);
}

function connect(): void {
  connected = true;
  const client = new pg.Client({ connectionString: config.DATABASE_URL });
  const again = (error?: Error) => {
    if (error) log.warn({ error: error.message }, 'lost the connection that carries events');
    client.removeAllListeners();
    client.on('error', () => {});
    client.end().catch(() => {});
    setTimeout(connect, RECONNECT_MS).unref();
  };
  client.once('error', again);
  client.once('end', () => again());
  client.on('notification', ({ payload }) => {
    const event = serverEvent.safeParse(JSON.parse(payload ?? 'null'));
    if (event.success) for (const listener of listeners) listener(event.data);
  });
  client
    .connect()
    .then(() => client.query(`listen ${CHANNEL}`))
    .catch(again);
}
