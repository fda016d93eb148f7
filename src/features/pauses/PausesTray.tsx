import { formatLength } from '@/core/time/clock.ts';
import { Fold } from '@/ui/Fold.tsx';
import { ProposalCard } from '../episode/review/ProposalCard.tsx';
import { SettingChoice, SettingNumber } from '../episode/review/SettingControl.tsx';
import { isMeasured, recordedLength } from '../episode/session/recordings.ts';
import { useEpisode } from '../episode/session/useEpisode.ts';
import { GapPanel, LevelPanel, WhatIfPanel } from './ChartPanels.tsx';
import { ListeningTracks } from './ListeningTracks.tsx';
import { MarkedRanges } from './MarkedRanges.tsx';
import { PauseList } from './PauseList.tsx';
import { SettingsSets } from './SettingsSets.tsx';
import { SpeechMeasure, SpeechPending } from './SpeechMeasure.tsx';
import { TempoChoice } from './TempoChoice.tsx';

/** How tight? */
export function PausesTray() {
  const measured = useEpisode((s) => s.cut !== undefined);
  const hasVideo = useEpisode((s) => s.detail?.recordings.some(({ facts }) => facts.video !== undefined) ?? false);
  const watched = useEpisode((s) => isMeasured(s.detail, 'motion'));
  const treatment = useEpisode((s) => s.decisions.settings.treatment);
  const moving = useEpisode((s) => s.decisions.settings.moving);
  if (!measured) return <p className="p-4 text-sm">Pauses appear here once the recording is measured.</p>;
  const hurries = treatment === 'hurry' || moving === 'hurry';
  return (
    <div className="px-3 pb-4">
      <Figures />
      <NothingHeard />
      <SpeechPending />
      <MarkedRanges />
      <TempoChoice />
      <LevelPanel />
      <SettingNumber name="threshold" />
      <GapPanel />
      <SettingNumber name="minPause" />
      <SettingNumber name="airAfter" />
      <SettingNumber name="airBefore" />
      <SettingChoice name="boldness" labels={{ wary: '99 %', usual: '97 %', bold: '90 %', daring: '75 %' }} />
      <ProposalCard />
      <Fold title="What is done with them">
        <SettingChoice
          name="treatment"
          labels={{ remove: 'take out', shorten: 'shorten', hurry: 'hurry', hole: 'leave a hole' }}
        />
        {treatment === 'shorten' && <SettingNumber name="shortenTo" />}
        {hasVideo && <SettingChoice name="moving" labels={{ same: 'the same', leave: 'leave in', hurry: 'hurry' }} />}
        {hasVideo && moving !== 'same' && <SettingNumber name="movingOver" />}
        {hasVideo && moving !== 'same' && !watched && <p className="text-xs">The picture is still being watched.</p>}
        {hurries && <SettingNumber name="hurryRate" />}
        {treatment === 'hurry' && <SettingNumber name="hurryFrom" />}
        {hurries && <SettingChoice name="hurrySound" labels={{ mute: 'none', along: 'faster', pitch: 'pitch kept' }} />}
      </Fold>
      <Fold title="What counts as silence">
        <SettingNumber name="airSentence" />
        <SettingNumber name="airTurn" />
        <SettingNumber name="speck" />
        <SettingChoice name="breaths" labels={{ pause: 'as pause', speech: 'as speech' }} />
        <ListeningTracks />
        <SpeechMeasure />
      </Fold>
      <Fold title="What if">
        <WhatIfPanel />
      </Fold>
      <Fold title="Settings to keep">
        <SettingsSets />
      </Fold>
      <PauseList />
    </div>
  );
}

/** What the present settings come to, and what the last move changed. */
function Figures() {
  const cut = useEpisode((s) => s.cut);
  const lit = useEpisode((s) => s.lit);
  const beside = useEpisode((s) => s.beside);
  const duration = useEpisode((s) => recordedLength(s));
  if (!cut) return null;
  const removed = duration - cut.length;
  const change = lit ? lit.length - cut.length : 0;
  const seams = lit ? cut.seams - lit.seams : 0;
  return (
    <div className="tabular border-base-300 border-b py-2 text-sm">
      <dl className="grid grid-cols-2 gap-x-4">
        <div className="flex justify-between">
          <dt>taken out</dt>
          <dd data-figure="removed">{formatLength(removed)}</dd>
        </div>
        <div className="flex justify-between">
          <dt>found</dt>
          <dd data-figure="found">{cut.count}</dd>
        </div>
      </dl>
      <p className="h-4 text-xs quiet" data-figure="change">
        {lit
          ? `${signed(change, formatLength)} taken out, ${signed(seams, String)} seams`
          : beside?.cut &&
            `${beside.name}: ${signed(cut.length - beside.cut.length, formatLength)}, ${signed(beside.cut.seams - cut.seams, String)} seams`}
      </p>
    </div>
  );
}

/** All of it is silence to these settings: nobody spoke, or too softly, or into another microphone. */
function NothingHeard() {
  const nothing = useEpisode(({ cut }) => cut !== undefined && cut.length === 0 && cut.silences().length === cut.count);
  if (!nothing) return null;
  return (
    <p role="alert" className="border-base-300 border-b py-1 text-sm">
      Nothing is heard in it: no sound stands over the threshold. Where somebody speaks softly, lower it; where nobody does, the
      voice is on another track or in another file.
    </p>
  );
}

const signed = (value: number, format: (size: number) => string) => `${value < 0 ? '−' : '+'}${format(Math.abs(value))}`;
