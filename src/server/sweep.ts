import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { config } from './config.ts';
import { db } from './db/connection.ts';
import { forgetUnused, purgeExpired } from './episodes/removal.ts';
import { log } from './log.ts';
import { isMediumId, mediumFolder } from './media/store.ts';
import { discardExpired } from './media/uploads.ts';
import { sweepRenders } from './render/renders.ts';

/** A folder that no database knows may belong to what is just coming in: for a day it does. */
const ORPHAN_HOURS = 24;

/** Clears away what nobody will come back for: uploads, removed episodes, and folders that belong to nothing. */
export async function sweep(): Promise<void> {
  await discardExpired();
  await purgeExpired();
  await sweepRenders();
  for (const id of await orphans()) {
    log.info({ media: id }, 'clearing away a folder that belongs to no episode');
    await forgetUnused(id);
  }
}

/** Folders of the store that no episode uses, as far as they are old enough. */
export async function orphans(hours = ORPHAN_HOURS): Promise<string[]> {
  const found = await mediaInStore();
  const used = new Set(await db('recordings').distinct('media_id').pluck('media_id'));
  const { rows } = await db.raw(`select part->>'id' as id from media, jsonb_array_elements(facts->'together') as part`);
  for (const { id } of rows as { id: string }[]) used.add(id);
  const old = await Promise.all(
    found.map(async (id) => {
      const { mtimeMs } = await stat(mediumFolder(id)).catch(() => ({ mtimeMs: Date.now() }));
      return Date.now() - mtimeMs >= hours * 3_600_000;
    }),
  );
  return found.filter((id, k) => old[k] && !used.has(id));
}

/** Names of all media that have a folder. */
export async function mediaInStore(): Promise<string[]> {
  const root = join(config.dataDir, 'media');
  const groups = await readdir(root).catch(() => []);
  const names = await Promise.all(groups.map((group) => readdir(join(root, group)).catch(() => [])));
  return names.flat().filter(isMediumId);
}
