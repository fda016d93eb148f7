import { useCallback, useEffect, useState } from 'react';
import type { AskRecognition, RecogniserList } from '@/core/contract/messages.ts';
import { baseLanguage } from '@/core/detect/words/lexicon.ts';
import { Fold } from '@/ui/Fold.tsx';
import { LanguageSelect } from '@/ui/LanguageSelect.tsx';
import { type Message, Said } from '@/ui/Said.tsx';
import { api } from '../api.ts';
import { hasShared } from '../episode/session/recordings.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { useAskedJob } from '../episode/workbench/useAskedJob.tsx';
import { Models } from './Models.tsx';

const KEPT_AS = 'zetemis.recogniser';
/** The one that was chosen last, as long as the page is open: later a better one may have come. */
const keptRecogniser = () => sessionStorage.getItem(KEPT_AS);

/** Asks a recogniser for the words: which one, and in what language. */
export function Recognise() {
  const model = useModel();
  const { job, current, ask, trouble } = useAskedJob('recognise');
  const has = useEpisode((s) => s.words.length > 0);
  const [list, setList] = useState<RecogniserList['recognisers']>([]);
  const [wanted, setWanted] = useState<AskRecognition['recogniser']>();
  // The words there are tell what is spoken, until somebody does.
  const own = useEpisode(() => baseLanguage(model.language));
  const [language, setLanguage] = useState<string>();
  const [said, setSaid] = useState<Message>();
  const isShared = useEpisode((s) => hasShared(s.detail));
  const [speakers, setSpeakers] = useState(false);
  const look = useCallback(() => {
    api
      .recognisers()
      .then(({ recognisers }) => setList(recognisers))
      .catch((error) => setSaid({ text: (error as Error).message, bad: true }));
  }, []);
  useEffect(look, [look]);
  const usable = list.filter((one) => one.unavailable === null);
  // The best that can be used comes first.
  const chosen = list.find(({ id }) => id === wanted) ?? usable.find(({ id }) => id === keptRecogniser()) ?? usable[0];
  const languages = chosen?.languages ?? ['en'];
  const spoken = [language, own].find((tag) => tag && languages.includes(tag)) ?? languages[0] ?? 'en';
  const recognise = () =>
    api.recognise(model.id, {
      recogniser: chosen?.id ?? 'local',
      language: spoken,
      from: model.player.sourceTime,
      speakers: speakers && isShared,
    });
  if (current) return null;
  return (
    <div className="text-sm">
      <div className="flex flex-wrap items-end gap-2">
        <label className="text-xs">
          Recogniser
          <select
            className="select select-xs flex w-44"
            value={chosen?.id ?? ''}
            onChange={({ target }) => {
              sessionStorage.setItem(KEPT_AS, target.value);
              setWanted(target.value as AskRecognition['recogniser']);
            }}
          >
            {list.map((one) => (
              <option key={one.id} value={one.id}>
                {one.label}
              </option>
            ))}
          </select>
        </label>
        <LanguageSelect value={spoken} languages={languages} className="w-24" onChoose={setLanguage} />
        <button
          type="button"
          className="btn btn-xs"
          disabled={!chosen || chosen.unavailable !== null}
          onClick={() => void ask(recognise)}
        >
          {job?.state === 'cancelled' ? 'Go on' : job?.state === 'failed' ? 'Try again' : 'Recognise'}
        </button>
      </div>
      {isShared && (
        <label className="mt-1 flex w-fit cursor-pointer items-center gap-2 text-xs">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={speakers}
            onChange={(event) => setSpeakers(event.target.checked)}
          />
          tell the voices apart too
        </label>
      )}
      <p className="mt-1 text-xs leading-tight quiet">
        {chosen?.unavailable ?? chosen?.help}
        {has && ' The words there are now are replaced; decisions stay.'}
      </p>
      {trouble}
      <Said message={said} />
      <Fold title="Models on this machine">
        <Models onChange={look} />
      </Fold>
    </div>
  );
}
