import { Download } from 'lucide-react';
import { useEffect, useState } from 'react';
import { baseLanguage } from '@/core/detect/words/lexicon.ts';
import { TRANSCRIPT_FORMATS } from '@/core/interchange/transcripts/registry.ts';
import { Choice } from '@/ui/Choice.tsx';
import { type Message, Said } from '@/ui/Said.tsx';
import { api } from '../api.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';

/** The formats in which words are handed over. */
const OFFERED = ['txt', 'vtt', 'srt', 'json', 'ctm'];

/** The words as a file: what is left, in programme time, or everything; some of them masked. */
export function WordsOut() {
  const model = useModel();
  const has = useEpisode((s) => s.words.length > 0);
  const saved = useEpisode((s) => s.save === 'saved');
  const [what, setWhat] = useState<'left' | 'all'>('left');
  const [mask, setMask] = useState(false);
  if (!has) return null;
  return (
    <section aria-label="Words to hand over">
      <h3 className="mt-4 mb-1 font-semibold">Words</h3>
      <Choice
        label="Which"
        help={what === 'left' ? 'Times are those of the programme.' : 'Times are those of the recording.'}
        options={[
          ['left', 'what is left'],
          ['all', 'everything'],
        ]}
        value={what}
        onChoose={setWhat}
      />
      <label className="flex w-fit cursor-pointer items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={mask}
          onChange={(event) => setMask(event.target.checked)}
        />
        mask words of the list
      </label>
      {mask && <MaskWords />}
      <div className="mt-2 flex flex-wrap gap-1">
        {OFFERED.map((id) => {
          const format = TRANSCRIPT_FORMATS.find((one) => one.id === id);
          return (
            <a
              key={id}
              className={`btn btn-sm ${saved ? '' : 'btn-disabled'}`}
              title={format?.help}
              href={api.transcriptFile(model.id, id, what, mask)}
              download
            >
              <Download size={14} aria-hidden /> {format?.label}
            </a>
          );
        })}
      </div>
    </section>
  );
}

/** The words that are masked in this language, kept for all episodes. */
function MaskWords() {
  const model = useModel();
  const language = baseLanguage(model.language);
  const [text, setText] = useState<string>();
  const [said, setSaid] = useState<Message>();
  useEffect(() => {
    api
      .masks()
      .then(({ lists }) => setText(lists.find((list) => list.language === language)?.words.join(', ') ?? ''))
      .catch((error) => setSaid({ text: (error as Error).message, bad: true }));
  }, [language]);
  const keep = () =>
    api
      .keepMasks({
        language,
        words: (text ?? '')
          .split(/[\s,;]+/)
          .map((word) => word.trim())
          .filter(Boolean),
      })
      .then(() => setSaid({ text: 'Kept for all episodes in this language.', bad: false }))
      .catch((error) => setSaid({ text: `${(error as Error).message} Nothing was changed.`, bad: true }));
  return (
    <form
      className="mt-1"
      onSubmit={(event) => {
        event.preventDefault();
        void keep();
      }}
    >
      <textarea
        className="textarea textarea-xs h-16 w-full"
        aria-label="Words to mask"
        placeholder="Words to mask, with spaces or commas between"
        value={text ?? ''}
        disabled={text === undefined}
        onChange={(event) => setText(event.target.value)}
      />
      <button type="submit" className="btn btn-xs">
        Keep this list
      </button>
      <Said message={said} />
    </form>
  );
}
