import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { parse } from 'yaml';
import { z } from 'zod';
import { MODEL_KINDS } from './modelFiles.ts';

/** Name of the card in the folder of a model. */
export const CARD = 'card.json';

/** What is known of a model that was added. */
export const modelCard = z.object({
  name: z.string().min(1).max(120),
  kind: z.enum(MODEL_KINDS),
  /** BCP 47 tags; none where its own card says none */
  languages: z.array(z.string().max(35)).max(200),
  bytes: z.number().nonnegative(),
  /** where it came from: the name of a file, or an address without what may be secret */
  from: z.string().max(500),
  /** SHA-256 of the archive it came in, where it was one */
  digest: z.string().nullable(),
  /** whether it tells when each token was said */
  tokenTimes: z.boolean(),
  /** seconds that a second of speech took when it was added, on one core */
  pace: z.number().positive(),
  /** share of the words of shipped English speech that it heard wrong; null where it is not there for words */
  wrong: z.number().nonnegative().nullable(),
  added: z.iso.datetime(),
});
export type ModelCard = z.infer<typeof modelCard>;

const frontMatter = z.object({ language: z.union([z.string(), z.array(z.string())]).optional() }).loose();

/** Languages that a model says it knows: the front matter of its README, as model collections write it. */
export async function languagesOf(folder: string): Promise<string[]> {
  const text = await readFile(join(folder, 'README.md'), 'utf8').catch(() => '');
  const matter = /^---\r?\n([\s\S]*?)\r?\n---/.exec(text)?.[1];
  if (matter === undefined) return [];
  try {
    const { language = [] } = frontMatter.parse(parse(matter));
    return [language].flat().filter(isLanguage);
  } catch {
    return [];
  }
}

/** Whether something is a language tag that can be compared with others. */
export const isLanguage = (tag: string): boolean => {
  try {
    return Intl.getCanonicalLocales(tag).length === 1;
  } catch {
    return false;
  }
};
