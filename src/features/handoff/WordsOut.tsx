import { Download } from 'lucide-react';
import { useEffect, useState } from 'react';
import { baseLanguage } from '@/core/detect/words/lexicon.ts';
import { TRANSCRIPT_FORMATS } from '@/core/interchange/transcripts/registry.ts';
import { type Message, Said } from '@/ui/Said.tsx';
import { api } from '../api.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';

/** The formats in which all words are handed over. */
const OFFERED = ['txt', 'vtt', 'srt', 'json', 'ctm'];

/** All words as a file, those that go with them, in the time of the recording. */
export function WholeTranscript({ mask }: { readonly mask: boolean }) {
  const model = useModel();
  const saved = useEpisode((s) => s.save === 'saved');
  return (
    <section aria-label="All words">
      <p className="mt-2 font-semibold">All words, in the time of the recording</p>
      <div className="mt-1 flex flex-wrap gap-1">
        {OFFERED.map((id) => {
          const format = TRANSCRIPT_FORMATS.find((one) => one.id === id);
          return (
            <a
              key={id}
              className={`btn btn-outline btn-xs ${saved ? '' : 'btn-disabled'}`}
              title={format?.help}
              href={api.transcriptFile(model.id, id, mask)}
              download
            >
              <Download size={12} aria-hidden /> {format?.label}
            </a>
          );
        })}
      </div>
    </section>
  );
}

/** The words that are masked in this language, kept for all episodes. */
export function MaskWords() {
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
