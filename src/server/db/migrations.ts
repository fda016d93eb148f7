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
import * as handoff from './migrations/010-handoff.ts';
import * as lessons from './migrations/011-lessons.ts';
import * as renders from './migrations/012-renders.ts';
import * as echoesAcross from './migrations/013-echoes-across.ts';
import * as cleanedRenders from './migrations/014-cleaned-renders.ts';

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
  '010-handoff': handoff,
  '011-lessons': lessons,
  '012-renders': renders,
  '013-echoes-across': echoesAcross,
  '014-cleaned-renders': cleanedRenders,
};

export const MIGRATION_NAMES = Object.keys(MIGRATIONS);

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
  return left.length === 0 && done.length === MIGRATION_NAMES.length;
}

/** Names of the migrations that a database has seen. */
export async function migrationsOf(knex: Knex): Promise<string[]> {
  const [done] = (await knex.migrate.list({ migrationSource: source })) as [{ name: string }[], unknown[]];
  return done.map(({ name }) => name);
}

/** Brings an empty database to the version that these migrations make. @throws Error when it is not on the way there */
export async function migrateTo(knex: Knex, wanted: readonly string[]): Promise<void> {
  const unknown = wanted.filter((name) => !(name in MIGRATIONS));
  if (unknown.length > 0) throw new Error(`This was made by a newer version of the program (${unknown.join(', ')}).`);
  const later = (await migrationsOf(knex)).filter((name) => !wanted.includes(name));
  for (const _ of later) await knex.migrate.down({ migrationSource: source });
  while ((await migrationsOf(knex)).length < wanted.length) await knex.migrate.up({ migrationSource: source });
}

/** Brings the database up to this version of the program. Safe to run again and from several processes at once. */
export async function migrate(knex: Knex): Promise<string[]> {
  const [, names] = (await knex.migrate.latest({ migrationSource: source })) as [number, string[]];
  return names;
}
