import Knex, { type Knex as Database } from 'knex';
import { config } from '../config.ts';

/** The one pool of connections of this process. */
export const db: Database = Knex({
  client: 'pg',
  connection: config.DATABASE_URL,
  pool: { min: 0, max: 10 },
  acquireConnectionTimeout: 10_000,
});

export type Transaction = Database.Transaction;
