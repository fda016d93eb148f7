import { copyFile, mkdir, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { z } from 'zod';
import { accessPath } from '../access.ts';
import { config } from '../config.ts';
import { db } from '../db/connection.ts';
import { migrationsOf } from '../db/migrations.ts';
import { mediumFolder } from '../media/store.ts';
import { copyVerified, KeepingError } from './copy.ts';
import { KEPT_TABLES, type KeptTable, readBack, writeTable } from './tables.ts';

export const BACKUP_FORMAT = 'zetemis.backup/1';
const written = z.object({ rows: z.int(), sha256: z.string() });
export const backupManifest = z.object({
  format: z.literal(BACKUP_FORMAT),
  madeAt: z.string(),
  /** names of the migrations that the tables are of */
  schema: z.array(z.string()),
  tables: z.record(z.string(), written),
  /** media whose file is in the backup, and those that lie in the media folder, by name of the medium */
  media: z.array(z.string()),
  linked: z.array(z.object({ id: z.string(), path: z.string() })),
});
export type BackupManifest = z.infer<typeof backupManifest>;

export interface BackupReport {
  /** name of the snapshot */
  readonly name: string;
  readonly rows: number;
  readonly media: number;
  /** files that had to be copied: the others were there */
  readonly copied: number;
  /** media of the database whose file is missing */
  readonly missing: readonly string[];
}

/**
 * Adds a snapshot to a backup folder: all tables as they are at one moment, and all media that the folder does not have yet. What
 * was written is read back. A snapshot appears whole or not at all.
 * @throws KeepingError when something was not written as it was read
 */
export async function backUp(folder: string): Promise<BackupReport> {
  const madeAt = new Date();
  const name = madeAt.toISOString().replace(/[:.]/g, '-');
  const snapshots = join(folder, 'snapshots');
  const work = join(snapshots, `${name}.part`);
  await mkdir(work, { recursive: true });
  try {
    const { tables, media, linked } = await writeTables(work);
    let copied = 0;
    const missing: string[] = [];
    for (const id of media) {
      const files = await copyMedium(id, join(folder, 'media', id.slice(0, 2), id));
      if (files === undefined) missing.push(id);
      else copied += files;
    }
    for (const table of KEPT_TABLES) {
      const back = await readBack(join(work, `${table}.ndjson.gz`));
      if (JSON.stringify(back) !== JSON.stringify(tables[table]))
        throw new KeepingError(`The table ${table} was not written whole.`);
    }
    // Those who may come in come in after a restore as well.
    if (await stat(accessPath(config.dataDir)).catch(() => undefined))
      await copyFile(accessPath(config.dataDir), join(work, 'access.json'));
    const there = media.filter((id) => !missing.includes(id));
    const manifest: BackupManifest = {
      format: BACKUP_FORMAT,
      madeAt: madeAt.toISOString(),
      schema: await migrationsOf(db),
      tables,
      media: there,
      linked,
    };
    await writeFile(join(work, 'manifest.json'), `${JSON.stringify(manifest, null, 2)}\n`, { flush: true });
    await rename(work, join(snapshots, name));
    return { name, rows: Object.values(tables).reduce((sum, { rows }) => sum + rows, 0), media: there.length, copied, missing };
  } catch (error) {
    await rm(work, { recursive: true, force: true });
    throw error;
  }
}

async function writeTables(folder: string) {
  return db.transaction(
    async (trx) => {
      const tables = {} as Record<KeptTable, z.infer<typeof written>>;
      for (const table of KEPT_TABLES) tables[table] = await writeTable(trx, table, join(folder, `${table}.ndjson.gz`));
      const rows = (await trx('media').select('id', 'linked_path')) as { id: string; linked_path: string | null }[];
      return {
        tables,
        media: rows.filter(({ linked_path }) => linked_path === null).map(({ id }) => id),
        linked: rows.flatMap(({ id, linked_path }) => (linked_path === null ? [] : [{ id, path: linked_path }])),
      };
    },
    { isolationLevel: 'repeatable read', readOnly: true },
  );
}

/** Copies the file of a medium and what was measured of it. @returns how many files that took; undefined when there is no file */
async function copyMedium(id: string, to: string): Promise<number | undefined> {
  const home = mediumFolder(id);
  if (!(await stat(join(home, 'original')).catch(() => undefined))) return undefined;
  let copied = 0;
  for (const entry of await readdir(home, { recursive: true, withFileTypes: true })) {
    if (!entry.isFile() || entry.name.endsWith('.part')) continue;
    const path = join(entry.parentPath, entry.name);
    if (await copyVerified(path, join(to, path.slice(home.length)))) copied++;
  }
  return copied;
}

/** Names of the snapshots of a backup folder, the oldest first. */
export async function snapshotsIn(folder: string): Promise<string[]> {
  const names = await readdir(join(folder, 'snapshots')).catch(() => []);
  return names.filter((name) => !name.endsWith('.part')).sort();
}

/** @throws KeepingError when it is none, or of a version this program does not read */
export async function readManifest(folder: string, snapshot: string): Promise<BackupManifest> {
  const text = await readFile(join(folder, 'snapshots', snapshot, 'manifest.json'), 'utf8');
  const parsed = backupManifest.safeParse(JSON.parse(text));
  if (!parsed.success)
    throw new KeepingError(`${snapshot} is no backup that this version reads.\n${z.prettifyError(parsed.error)}`);
  return parsed.data;
}
