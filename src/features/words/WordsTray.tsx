import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { useEffect } from 'react';
import { useStore } from 'zustand';
import { Fold } from '@/ui/Fold.tsx';
import { Said } from '@/ui/Said.tsx';
import { ProposalCard } from '../episode/review/ProposalCard.tsx';
import { SettingChoice, SettingNumber } from '../episode/review/SettingControl.tsx';
import { settingsShown } from '../episode/review/tuning.ts';
import { unsureWords } from '../episode/review/wordActions.ts';
import { isMeasured } from '../episode/session/recordings.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { CommandButton } from '../episode/workbench/CommandButton.tsx';
import { brought } from '../intake/words.ts';
import { BringWords } from './BringWords.tsx';
import { FillerList } from './FillerList.tsx';
import { FindBox } from './FindBox.tsx';
import { Lexicon } from './Lexicon.tsx';
import { Placing } from './Placing.tsx';
import { Recognise } from './Recognise.tsx';
import { Speakers } from './Speakers.tsx';
import { Stray } from './Stray.tsx';
import { WordsLanguage } from './WordsLanguage.tsx';
import { WordsUnderway } from './WordsUnderway.tsx';

const client = new QueryClient();

/** Which fillers, and what was misheard? */
export function WordsTray() {
  return (
    <QueryClientProvider client={client}>
      <Words />
    </QueryClientProvider>
  );
}

function Words() {
  const model = useModel();
  const words = useEpisode((s) => s.words);
  const measured = useEpisode((s) => isMeasured(s.detail, 'measure'));
  const hears = useEpisode((s) => s.hearsSteps);
  const spare = useEpisode((s) => settingsShown(s).spare);
  const said = useStore(brought, (state) => state.said);
  // What was said of earlier words is over when one comes back.
  useEffect(() => () => brought.setState({ said: undefined }), []);
  if (!measured)
    return (
      <div className="p-4 text-sm">
        <p>Words can be recognised once the recording is measured.</p>
        <Said message={said} />
      </div>
    );
  const isOnTop = said?.onTop && words.length > 0;
  const getting = (
    <>
      <BringWords />
      {!isOnTop && <Said message={said} />}
      <Recognise />
    </>
  );
  if (words.length === 0)
    return (
      <div className="flex flex-col gap-3 px-3 py-3">
        <p className="text-sm">
          There are no words yet. Bring a transcript, or have the recording recognised: then they stand on the score, and fillers
          and repeats are found.
        </p>
        <WordsUnderway />
        {getting}
      </div>
    );
  const unsure = unsureWords(words).length;
  return (
    <div className="px-3 pb-4">
      {isOnTop && <Said message={said} />}
      <WordsUnderway />
      <Stray />
      <Placing />
      <FindBox />
      <ProposalCard />
      <label className="mt-1 flex w-fit cursor-pointer items-center gap-2 text-sm">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={hears}
          onChange={(event) => model.show({ hearsSteps: event.target.checked })}
        />
        play each when stepping
      </label>
      <FillerList />
      <div className="mt-2 flex items-center justify-between gap-2 text-sm">
        <span>
          {unsure === 0
            ? 'No word is in doubt.'
            : unsure === 1
              ? 'One word may be misheard.'
              : `${unsure} words may be misheard.`}
        </span>
        <CommandButton id="unsure">Least sure next</CommandButton>
      </div>
      <Fold title="How many go">
        <SettingChoice name="spare" labels={{ none: 'all go', paused: 'those in pauses stay', some: 'some stay' }} />
        {spare === 'some' && <SettingNumber name="spareEvery" />}
        <SettingChoice name="asked" labels={{ leave: 'leave in', propose: 'propose' }} />
        <SettingChoice name="fillerTreatment" labels={{ remove: 'taken out', hole: 'left as a hole' }} />
        <SettingChoice name="fillers" labels={{ propose: 'propose', leave: 'leave in' }} />
        <SettingChoice name="heard" labels={{ propose: 'propose', leave: 'leave in' }} />
        <SettingChoice name="repeats" labels={{ propose: 'propose', leave: 'leave in' }} />
        <SettingChoice name="repeatStays" labels={{ first: 'the first', last: 'the last' }} />
      </Fold>
      <Fold title="Lexicon">
        <Lexicon />
      </Fold>
      <Fold title="Speakers">
        <Speakers />
      </Fold>
      <Fold title={`The words: ${words.length}`}>
        <div className="flex flex-col gap-2 py-1">
          <WordsLanguage />
          {getting}
        </div>
      </Fold>
    </div>
  );
}
