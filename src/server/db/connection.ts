import Knex, { type Knex as Database } from 'knex';
import { config } from '../config.ts';
import { log } from '../log.ts';

/** The one pool of connections of this process. */
export const db: Database = Knex({
  client: 'pg',
  connection: config.DATABASE_URL,
  pool: { min: 0, max: 10 },
  acquireConnectionTimeout: 10_000,
  log: {
    warn: (message) => log.warn(String(message)),
    error: (message) => log.error(String(message)),
    deprecate: (message) => log.warn(String(message)),
    debug: (message) => log.debug(String(message)),
  },
});

export type Transaction = Database.Transaction;
export type Connection = Database | Transaction;
