import type { Knex } from 'knex';
import * as firstTables from './migrations/001-first-tables.ts';
import * as moreCurves from './migrations/002-more-curves.ts';
import * as settingsSets from './migrations/003-settings-sets.ts';
import * as words from './migrations/004-words.ts';
import * as echoes from './migrations/005-echoes.ts';
import * as embedding from './migrations/006-embedding.ts';
import * as severalRecordings from './migrations/007-several-recordings.ts';
import * as cutSnapshots from './migrations/008-cut-snapshots.ts';
import * as boundsAndTroubles from './migrations/009-bounds-and-troubles.ts';

/** Migrations in order. They are imported, not read from a folder, so that they are part of whatever is built. */
const MIGRATIONS = {
  '001-first-tables': firstTables,
  '002-more-curves': moreCurves,
  '003-settings-sets': settingsSets,
  '004-words': words,
  '005-echoes': echoes,
  '006-embedding': embedding,
  '007-several-recordings': severalRecordings,
  '008-cut-snapshots': cutSnapshots,
  '009-bounds-and-troubles': boundsAndTroubles,
};

interface Migration {
  up(knex: Knex): Promise<void>;
  down(knex: Knex): Promise<void>;
}

const source: Knex.MigrationSource<string> = {
  getMigrations: async () => Object.keys(MIGRATIONS),
  getMigrationName: (name) => name,
  getMigration: async (name) => MIGRATIONS[name as keyof typeof MIGRATIONS] as Migration,
};

/** Whether the database is of this very version of the program. */
export async function isCurrent(knex: Knex): Promise<boolean> {
  const [done, left] = (await knex.migrate.list({ migrationSource: source })) as [unknown[], unknown[]];
  return left.length === 0 && done.length === Object.keys(MIGRATIONS).length;
}

/** Brings the database up to this version of the program. Safe to run again and from several processes at once. */
export async function migrate(knex: Knex): Promise<string[]> {
  const [, names] = (await knex.migrate.latest({ migrationSource: source })) as [number, string[]];
  return names;
}
