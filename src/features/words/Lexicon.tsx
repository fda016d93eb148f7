import { useState } from 'react';
import {
  baseLanguage,
  changesOf,
  type LexiconChange,
  lexiconOf,
  SHIPPED_LANGUAGES,
  withChange,
  writeLexiconFile,
} from '@/core/detect/words/lexicon.ts';
import { STRENGTHS, type Strength } from '@/core/detect/words/lexiconEntry.ts';
import { FileButton } from '@/ui/FileButton.tsx';
import { LanguageSelect, languageName } from '@/ui/LanguageSelect.tsx';
import { type Message, Said } from '@/ui/Said.tsx';
import { settingsShown } from '../episode/review/tuning.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';

const STRENGTH_NAMES: Readonly<Record<Strength, string>> = {
  always: 'always',
  often: 'by context',
  asked: 'when asked',
  cue: 'said to whoever cuts',
  off: 'off',
};

/** The words that count as fillers, by language: add, change, switch off, take from and to a file. */
export function Lexicon() {
  const model = useModel();
  const setting = useEpisode((s) => settingsShown(s).lexicon);
  const own = useEpisode(() => baseLanguage(model.language));
  const [chosen, setChosen] = useState<string>();
  const [said, setSaid] = useState<Message>();
  const language = chosen ?? own;
  const languages = [...new Set([own, ...SHIPPED_LANGUAGES, ...changesOf(setting).map((change) => change.language), language])];
  const entries = lexiconOf(language, setting);
  const change = (one: Omit<LexiconChange, 'language'>) =>
    model.tuning.applySettings({ lexicon: withChange(setting, { ...one, language }) });
  const bring = async (file: File) => {
    try {
      const { readLexiconFile } = await import('@/core/interchange/lexiconFile.ts');
      const read = readLexiconFile(await file.text());
      setChosen(read.language);
      model.tuning.applySettings({ lexicon: read.setting });
      setSaid({ text: `${file.name} is the lexicon now.`, bad: false });
    } catch (error) {
      setSaid({ text: `${(error as Error).message} Nothing was changed.`, bad: true });
    }
  };
  return (
    <div className="text-sm">
      <div className="flex items-end gap-2">
        <LanguageSelect value={language} languages={languages} className="w-32" onChoose={setChosen} />
        <form
          className="flex gap-1"
          onSubmit={(event) => {
            event.preventDefault();
            const tag = baseLanguage(String(new FormData(event.currentTarget).get('tag') ?? ''));
            if (/^[a-z]{2,3}$/.test(tag)) setChosen(tag);
            event.currentTarget.reset();
          }}
        >
          <input
            name="tag"
            className="input input-xs w-14"
            placeholder="fi"
            aria-label="Code of another language"
            maxLength={3}
          />
          <button type="submit" className="btn btn-xs">
            Add language
          </button>
        </form>
      </div>
      <ul className="mt-1 max-h-48 overflow-y-auto rounded border border-base-300 bg-base-100" aria-label="Entries">
        {entries.map(({ phrase, strength }) => (
          <li key={phrase} className="flex items-center justify-between gap-2 px-2 py-0.5">
            <span className={`font-serif ${strength === 'off' ? 'opacity-60' : ''}`}>{phrase}</span>
            <select
              className="select select-xs w-28"
              aria-label={`How surely “${phrase}” is a filler`}
              value={strength}
              onChange={(event) => change({ phrase, strength: event.target.value as Strength })}
            >
              {STRENGTHS.map((one) => (
                <option key={one} value={one}>
                  {STRENGTH_NAMES[one]}
                </option>
              ))}
            </select>
          </li>
        ))}
        {entries.length === 0 && <li className="px-2 py-1 text-xs">No entries yet for {languageName(language)}.</li>}
      </ul>
      <form
        className="mt-1 flex gap-1"
        onSubmit={(event) => {
          event.preventDefault();
          const phrase = String(new FormData(event.currentTarget).get('phrase') ?? '').trim();
          if (phrase && !/[/:;]/.test(phrase)) change({ phrase, strength: 'often' });
          event.currentTarget.reset();
        }}
      >
        <input
          name="phrase"
          className="input input-xs grow"
          placeholder="Another word or phrase"
          aria-label="Another word or phrase"
          maxLength={60}
        />
        <button type="submit" className="btn btn-xs">
          Add
        </button>
      </form>
      <div className="mt-1 flex gap-1">
        <FileButton label="Lexicon file" accept=".json,application/json" onFiles={([file]) => file && void bring(file)}>
          From a file
        </FileButton>
        <a
          className="btn btn-xs"
          download={`${language}.lexicon.json`}
          href={`data:application/json;charset=utf-8,${encodeURIComponent(writeLexiconFile(language, entries))}`}
        >
          To a file
        </a>
        {setting !== 'shipped' && (
          <button type="button" className="btn btn-xs" onClick={() => model.tuning.applySettings({ lexicon: 'shipped' })}>
            As shipped
          </button>
        )}
      </div>
      <Said message={said} />
    </div>
  );
}
