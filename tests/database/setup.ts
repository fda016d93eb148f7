import { mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { migrateDatabase } from '../../scripts/migrate.ts';
import { startCluster } from '../../scripts/postgres.ts';
import { folderFor } from '../media.ts';

/** A database server and a media store of the tests' own. */
export default async function setup(): Promise<() => Promise<void>> {
  const folder = folderFor('integration');
  const cluster = await startCluster(join(folder, 'postgres'));
  await migrateDatabase(cluster.url);
  mkdirSync(join(folder, 'media'));
  Object.assign(process.env, {
    DATABASE_URL: cluster.url,
    ZETEMIS_DATA_DIR: join(folder, 'data'),
    ZETEMIS_MEDIA_DIR: join(folder, 'media'),
    LOG_LEVEL: 'silent',
  });
  return async () => {
    await cluster.stop();
    rmSync(cluster.base, { recursive: true, force: true });
    rmSync(folder, { recursive: true, force: true });
  };
}
