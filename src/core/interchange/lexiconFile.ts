import { z } from 'zod';
import { parseJson } from '../contract/json.ts';
import { SettingsError } from '../detect/settings.ts';
import { baseLanguage, lexiconOf, normalPhrase, withChange } from '../detect/words/lexicon.ts';
import { STRENGTHS } from '../detect/words/lexiconEntry.ts';

const lexiconFile = z.object({
  schema: z.literal('zetemis.lexicon/1'),
  language: z.string().regex(/^[a-z]{2,3}(-[A-Za-z0-9]+)*$/),
  entries: z.array(z.object({ phrase: z.string().min(1).max(60), strength: z.enum(STRENGTHS) })).max(500),
});

/**
 * The setting that gives a language exactly the entries of a file.
 * @throws SettingsError saying what is wrong with it
 */
export function readLexiconFile(text: string): { language: string; setting: string } {
  const value = parseJson(text, (why) => new SettingsError(`The lexicon is not JSON: ${why}`));
  const parsed = lexiconFile.safeParse(value);
  if (!parsed.success)
    throw new SettingsError(
      `This is no lexicon of this program (${parsed.error.issues[0]?.path.join('.')}: ${parsed.error.issues[0]?.message}).`,
    );
  const language = baseLanguage(parsed.data.language);
  const given = new Map(parsed.data.entries.map(({ phrase, strength }) => [normalPhrase(phrase), strength]));
  let setting = 'shipped';
  for (const { phrase } of lexiconOf(language, 'shipped'))
    if (!given.has(phrase)) setting = withChange(setting, { language, phrase, strength: 'off' });
  for (const [phrase, strength] of given) if (phrase) setting = withChange(setting, { language, phrase, strength });
  return { language, setting };
}
