import { createHash } from 'node:crypto';
import { readdir, readFile, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Cleaning } from '@/core/clean/cleaning.ts';
import { type CleaningReport, cleaningReport } from '@/core/clean/report.ts';
import { notFound } from '../../refusal.ts';
import { cleanName } from '../cleanName.ts';
import type { Medium } from '../media.ts';
import type { Running } from '../render/renderSound.ts';
import { mediumFolder, originalPath } from '../store.ts';
import { cleanSound } from './cleanSound.ts';

/** Told apart from what an earlier version cleaned otherwise. */
const VERSION = 1;

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

/** What a file of cleaned sound is called, after that of its recording. */
export const cleanedName = (fileName: string): string => `${cleanName(fileName).replace(/\.[^.]*$/, '')} cleaned.mka`;

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
