import { runMigrations } from 'graphile-worker';
import Knex from 'knex';
import { migrate } from '@/server/db/migrations.ts';

/** Brings a database up to date: our tables and the queue's. */
export async function migrateDatabase(url: string): Promise<void> {
  const knex = Knex({ client: 'pg', connection: url });
  try {
    await migrate(knex);
  } finally {
    await knex.destroy();
  }
  await runMigrations({ connectionString: url });
}
