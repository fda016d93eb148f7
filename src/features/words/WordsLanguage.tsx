import { useState } from 'react';
import { baseLanguage, SHIPPED_LANGUAGES } from '@/core/detect/words/lexicon.ts';
import { TOLD_LANGUAGES } from '@/core/transcript/languageTags.ts';
import { LanguageSelect } from '@/ui/LanguageSelect.tsx';
import { type Message, Said } from '@/ui/Said.tsx';
import { api } from '../api.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';

/** What language the words are in: told by them when they came, and put right here. */
export function WordsLanguage() {
  const model = useModel();
  const language = useEpisode(() => model.language);
  const [said, setSaid] = useState<Message>();
  const base = baseLanguage(language);
  const languages = [...new Set([base, ...SHIPPED_LANGUAGES, ...TOLD_LANGUAGES])];
  const name = (tag: string) =>
    api
      .nameLanguage(model.id, tag)
      .then(() => model.refresh())
      .then(() => setSaid(undefined))
      .catch((error) => setSaid({ text: `${(error as Error).message} Nothing was changed.`, bad: true }));
  return (
    <div>
      <LanguageSelect
        label="They are in"
        value={base}
        languages={languages}
        className="w-44"
        onChoose={(tag) => void name(tag)}
      />
      {!SHIPPED_LANGUAGES.includes(base) && (
        <p className="mt-1 text-xs quiet">No fillers ship for this language: put yours under Lexicon.</p>
      )}
      <Said message={said} />
    </div>
  );
}
