import { createHash } from 'node:crypto';
import { readFile, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { readTranscript } from '@/core/interchange/transcripts/words-json.ts';
import type { Transcript } from '@/core/transcript/word.ts';
import type { Recogniser } from '@/server/media/recognise/recogniser.ts';

/**
 * Words that were looked for in the sound, kept beside what else is measured of a recording: it takes longer than all the rest. They are found
 * again for the same words, by the same recognisers and the same program.
 * @param folder undefined where nothing is kept
 * @param of what was looked for
 */
export async function keptWords(
  folder: string | undefined,
  of: Transcript,
  recognisers: readonly Recogniser[],
  look: () => Promise<Transcript>,
): Promise<Transcript> {
  const program = await readFile(process.argv[1] ?? '').catch(() => undefined);
  if (folder === undefined || !program) return look();
  const variants = await Promise.all(recognisers.map((one) => one.variant?.(of.language)));
  const key = createHash('sha256')
    .update(program)
    .update(JSON.stringify([of, variants]))
    .digest('hex');
  const path = join(folder, `words-${key.slice(0, 24)}.json`);
  const kept = await readFile(path, 'utf8')
    .then(readTranscript)
    .catch(() => undefined);
  if (kept) return { language: kept.language ?? of.language, words: kept.words };
  const found = await look();
  await writeFile(`${path}.part`, JSON.stringify(found));
  await rename(`${path}.part`, path);
  return found;
}
