import { copyFile, readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { accessPath } from '../access.ts';
import { config } from '../config.ts';
import { db } from '../db/connection.ts';
import { migrate, migrateTo } from '../db/migrations.ts';
import { askCut } from '../episodes/snapshots.ts';
import { enqueueMissing } from '../jobs/missing.ts';
import { contentId, mediumFolder } from '../media/store.ts';
import { readManifest, snapshotsIn } from './backup.ts';
import { copyVerified, KeepingError } from './copy.ts';
import { keptTablesOf, readBack, readTable } from './tables.ts';

export interface RestoreReport {
  readonly name: string;
  readonly madeAt: string;
  readonly rows: number;
  readonly media: number;
  /** media whose file is not what its name says */
  readonly damaged: readonly string[];
  /** files of the media folder that must be brought back by hand, since only their names are kept */
  readonly linked: readonly string[];
}

/**
 * Puts a snapshot into an empty server: tables of the version they were written from, brought up to this one, then the media, each
 * compared with its name. What was not measured, or is missing, is queued.
 * @param snapshot the last one when left out
 * @throws KeepingError when the backup is damaged, or there is something already
 */
export async function restore(folder: string, snapshot?: string): Promise<RestoreReport> {
  const name = snapshot ?? (await snapshotsIn(folder)).at(-1);
  if (!name) throw new KeepingError(`There is no backup in ${folder}.`);
  const manifest = await readManifest(folder, name);
  const pathOf = (file: string) => join(folder, 'snapshots', name, file);
  const kept = keptTablesOf(manifest.schema);
  for (const table of kept) {
    const told = manifest.tables[table];
    const found = told && (await readBack(pathOf(`${table}.ndjson.gz`)));
    if (!told || found?.sha256 !== told.sha256 || found.rows !== told.rows)
      throw new KeepingError(`The backup ${name} is damaged: the table ${table} is not what was written. Nothing was restored.`);
  }
  await migrateTo(db, manifest.schema);
  await db.transaction(async (trx) => {
    const [{ count }] = (await trx('episodes').count()) as [{ count: string }];
    if (Number(count) > 0)
      throw new KeepingError(
        `There are ${count} episodes here already. Restore into a new folder (ZETEMIS_VAR_DIR), and nothing is lost.`,
      );
    for (const table of kept) await trx(table).delete();
    for (const table of kept) await readTable(trx, table, pathOf(`${table}.ndjson.gz`));
  });
  await migrate(db);
  const damaged: string[] = [];
  for (const id of manifest.media) {
    const from = join(folder, 'media', id.slice(0, 2), id);
    for (const entry of await readdir(from, { recursive: true, withFileTypes: true }).catch(() => []))
      if (entry.isFile()) {
        const path = join(entry.parentPath, entry.name);
        await copyVerified(path, join(mediumFolder(id), path.slice(from.length)));
      }
    const original = join(mediumFolder(id), 'original');
    if (!(await stat(original).catch(() => undefined)) || (await contentId(original)) !== id) damaged.push(id);
  }
  for (const id of await db('media').pluck('id')) await db.transaction((trx) => enqueueMissing(trx, id));
  for (const id of await db('episodes').pluck('id')) await askCut(id);
  await copyFile(pathOf('access.json'), accessPath(config.dataDir)).catch(() => {});
  return {
    name,
    madeAt: manifest.madeAt,
    rows: Object.values(manifest.tables).reduce((sum, { rows }) => sum + rows, 0),
    media: manifest.media.length,
    damaged,
    linked: manifest.linked.map(({ path }) => path),
  };
}
