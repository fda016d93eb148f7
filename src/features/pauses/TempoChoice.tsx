import { useMemo } from 'react';
import type { Rhythm } from '@/core/detect/sound/rhythm.ts';
import { TEMPI, type Tempo, tempoOf, tempoSteps } from '@/core/detect/sound/tempo.ts';
import { formatLength } from '@/core/time/clock.ts';
import { Choice } from '@/ui/Choice.tsx';
import { settingsShown } from '../episode/review/tuning.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';

const STEPS = TEMPI.map((tempo) => [tempo, tempo] as const);

/** One control that moves shortest pause, air and shortened length together, by how this speaker pauses. */
export function TempoChoice() {
  const model = useModel();
  const rhythm = useEpisode((s) => s.rhythm);
  const steps = useMemo(() => rhythm && tempoSteps(rhythm), [rhythm]);
  const tempo = useEpisode((s) => steps && tempoOf(settingsShown(s), steps));
  const isKnown = useEpisode((s) => s.histogram !== undefined);
  // Until it is known whether there is a rhythm it keeps its place: nothing may move from under a hand.
  if (isKnown && !rhythm) return null;
  const choose = (step: Tempo) => steps && model.tuning.applySettings(steps[step], step);
  return (
    <Choice
      label="Tempo"
      help={rhythm ? spokenRhythm(rhythm) : 'How this voice rests is being worked out.'}
      disabled={!rhythm}
      options={STEPS}
      value={tempo}
      onChoose={choose}
    />
  );
}

const spokenRhythm = ({ known, inside, sentence }: Rhythm): string =>
  known
    ? `This voice rests ${formatLength(inside)} inside a sentence and ${formatLength(sentence)} after one.`
    : 'Too few rests are heard to tell how this voice pauses: the steps are the usual ones.';
