import { constants } from 'node:fs';
import { access, mkdir } from 'node:fs/promises';
import { config } from './config.ts';
import { db } from './db/connection.ts';
import { isCurrent } from './db/migrations.ts';

export interface Readiness {
  readonly ready: boolean;
  /** of each thing that is needed, whether it is there */
  readonly database: boolean;
  readonly migrated: boolean;
  readonly store: boolean;
  /** whether a queue worker was heard of lately: without one nothing is measured, though all else works */
  readonly worker: boolean;
}

export async function readiness(): Promise<Readiness> {
  const database = await db.raw('select 1').then(
    () => true,
    () => false,
  );
  const migrated = database && (await isCurrent(db).catch(() => false));
  const store = await mkdir(config.dataDir, { recursive: true })
    .then(() => access(config.dataDir, constants.W_OK))
    .then(
      () => true,
      () => false,
    );
  const worker = migrated && (await hasWorker().catch(() => false));
  return { ready: database && migrated && store, database, migrated, store, worker };
}

async function hasWorker(): Promise<boolean> {
  return (await db('queue_workers').whereRaw("seen_at > now() - interval '10 seconds'").first()) !== undefined;
}
