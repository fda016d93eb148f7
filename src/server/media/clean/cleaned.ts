import { createHash, randomUUID } from 'node:crypto';
import { readdir, readFile, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Cleaning } from '@/core/clean/cleaning.ts';
import { type CleaningReport, cleaningReport } from '@/core/clean/report.ts';
import type { MediaFacts } from '@/core/contract/media.ts';
import { notFound } from '../../refusal.ts';
import type { Medium } from '../media.ts';
import type { Running } from '../render/renderSound.ts';
import { mediumFolder, originalPath } from '../store.ts';
import { cleanedFacts, cleanSound, writeWave } from './cleanSound.ts';

/** Told apart from what an earlier version cleaned otherwise. */
const VERSION = 2;

/** Names what was cleaned by what was chosen. */
export const cleaningKey = (choices: Cleaning): string =>
  createHash('sha256')
    .update(JSON.stringify([VERSION, ...Object.entries(choices).sort(([a], [b]) => (a < b ? -1 : 1))]))
    .digest('hex')
    .slice(0, 16);

export const cleanedPath = (mediaId: string, key: string): string => join(mediumFolder(mediaId), `cleaned-${key}.mka`);

/** What was found and done, where the sound of a medium was cleaned like that. */
export async function cleanedReport(mediaId: string, key: string): Promise<CleaningReport | undefined> {
  const path = cleanedPath(mediaId, key);
  if (!(await stat(path).catch(() => undefined))) return undefined;
  const read = cleaningReport.safeParse(JSON.parse(await readFile(`${path}.json`, 'utf8').catch(() => 'null')));
  return read.success ? read.data : undefined;
}

const KEY = /^[0-9a-f]{16}$/;

/** The name of what was cleaned, where it is there. @throws Refusal where it is not */
export async function findCleaned(mediaId: string, asked: string | null): Promise<string> {
  if (asked === null || !KEY.test(asked) || !(await cleanedReport(mediaId, asked))) throw notFound('That cleaned sound');
  return asked;
}

/** Cleaned sound as a file that any editor reads; made when it is first wanted. */
export async function cleanedWave(mediaId: string, key: string, facts: MediaFacts): Promise<string> {
  const from = cleanedPath(mediaId, key);
  const path = `${from}.wav`;
  if (await stat(path).catch(() => undefined)) return path;
  const part = `${from}.part-${randomUUID()}.wav`;
  await writeWave(from, cleanedFacts(facts), part).catch(async (error) => {
    await rm(part, { force: true });
    throw error;
  });
  await rename(part, path);
  return path;
}

/** What was cleaned otherwise may still be heard or rendered; after a day nobody does. */
const KEPT_MS = 86_400_000;

/** Cleans the sound of a medium, unless that was done; what was cleaned otherwise long before is forgotten. */
export async function makeCleaned({ id, facts, linkedPath }: Medium, choices: Cleaning, running: Running): Promise<void> {
  const key = cleaningKey(choices);
  if (await cleanedReport(id, key)) return;
  await cleanSound(await originalPath(id, linkedPath), facts, choices, cleanedPath(id, key), running);
  for (const name of await readdir(mediumFolder(id))) {
    if (!name.startsWith('cleaned-') || name.startsWith(`cleaned-${key}.mka`)) continue;
    const path = join(mediumFolder(id), name);
    const { mtimeMs } = await stat(path).catch(() => ({ mtimeMs: Date.now() }));
    if (Date.now() - mtimeMs > KEPT_MS) await rm(path, { recursive: true, force: true });
  }
}
