import { mkdirSync, rmSync } from 'node:fs';
import { beforeAll } from 'vitest';
import { config } from '@/server/config.ts';
import { db } from '@/server/db/connection.ts';

/** Each file of tests begins with an empty database and an empty store, whichever ran before it. */
beforeAll(async () => {
  const tables = await db('information_schema.tables')
    .where({ table_schema: 'public', table_type: 'BASE TABLE' })
    .whereNot('table_name', 'like', 'knex%')
    .pluck('table_name');
  await db.raw(`truncate ${tables.map((name) => `"${name}"`).join(', ')} cascade`);
  await db.raw('delete from graphile_worker._private_jobs');
  rmSync(config.dataDir, { recursive: true, force: true });
  mkdirSync(config.dataDir, { recursive: true });
});
