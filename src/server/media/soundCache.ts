import { mkdir, readdir, readFile, rename, rm, stat, utimes, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import PQueue from 'p-queue';
import { config } from '../config.ts';
import { log } from '../log.ts';
import { cleanedPath } from './clean/cleaned.ts';
import { cleanedFacts } from './clean/cleanSound.ts';
import type { Medium } from './media.ts';
import { soundPart } from './sound.ts';
import { originalPath, removeFolder } from './store.ts';

/** Decoders at once: more only slow one another down, and whoever plays waits for one part at a time. */
const DECODERS = 3;
/** Written bytes after which is looked how much there is in all. */
const LOOK_AFTER = 50_000_000;
/** When there is too much, so much of what is allowed stays. */
const KEPT_SHARE = 0.8;

const decoders = new PQueue({ concurrency: DECODERS });
let written = 0;

const cacheFolder = (): string => join(config.dataDir, 'cache', 'sound');
const pathOf = (mediaId: string, part: number, cleaned = ''): string =>
  join(cacheFolder(), mediaId, `${cleaned && `${cleaned}-`}${part}.flac`);

/**
 * A part of the sound of a medium, from the disk where it was decoded before.
 * @param cleaned names what was cleaned of it; the recorded sound without
 * @param urgency what is lower is decoded first
 * @throws what `signal` was aborted with, when nobody waits any more
 */
export async function cachedSoundPart(
  medium: Medium,
  part: number,
  urgency: number,
  signal: AbortSignal,
  cleaned?: string,
): Promise<Uint8Array<ArrayBuffer>> {
  const path = pathOf(medium.id, part, cleaned);
  const known = await kept(path);
  if (known) return known;
  return decoders.add(
    async () => {
      // Another tab may have asked for the same meanwhile.
      const came = await kept(path);
      if (came) return came;
      const bytes =
        cleaned === undefined
          ? await soundPart(await originalPath(medium.id, medium.linkedPath), medium.facts, part, signal)
          : await soundPart(cleanedPath(medium.id, cleaned), cleanedFacts(medium.facts), part, signal);
      await keep(path, bytes).catch((error) =>
        log.warn({ error: (error as Error).message }, 'a part of the sound could not be kept'),
      );
      return bytes;
    },
    { priority: -urgency, signal },
  ) as Promise<Uint8Array<ArrayBuffer>>;
}

/** Forgets what was decoded of a medium. */
export const forgetSound = (mediaId: string): Promise<void> => removeFolder(join(cacheFolder(), mediaId));

async function kept(path: string): Promise<Uint8Array<ArrayBuffer> | undefined> {
  const bytes = await readFile(path).catch(() => undefined);
  if (!bytes) return undefined;
  const now = new Date();
  await utimes(path, now, now).catch(() => {});
  return new Uint8Array(bytes);
}

async function keep(path: string, bytes: Uint8Array): Promise<void> {
  await mkdir(dirname(path), { recursive: true });
  const work = `${path}.${process.pid}.part`;
  await writeFile(work, bytes);
  await rename(work, path);
  written += bytes.length;
  if (written < LOOK_AFTER) return;
  written = 0;
  await shrinkTo(config.ZETEMIS_SOUND_CACHE);
}

/** Takes away what was not heard for the longest, when there is more than `most` bytes. */
export async function shrinkTo(most: number): Promise<void> {
  const entries = await readdir(cacheFolder(), { recursive: true, withFileTypes: true }).catch(() => []);
  const files = await Promise.all(
    entries
      .filter((entry) => entry.isFile())
      .map(async (entry) => {
        const path = join(entry.parentPath, entry.name);
        const { size, mtimeMs } = await stat(path).catch(() => ({ size: 0, mtimeMs: 0 }));
        return { path, size, mtimeMs };
      }),
  );
  let total = files.reduce((sum, { size }) => sum + size, 0);
  if (total <= most) return;
  files.sort((a, b) => a.mtimeMs - b.mtimeMs);
  for (const { path, size } of files) {
    if (total <= KEPT_SHARE * most) return;
    await rm(path, { force: true });
    total -= size;
  }
}
