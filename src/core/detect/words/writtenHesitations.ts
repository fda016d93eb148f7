import { EXACT_TIMES } from '../../align/timing.ts';
import type { HesitationCurve } from '../../curves/hesitation.ts';
import type { Word } from '../../transcript/word.ts';
import { FITTED } from '../calibration/fitted.ts';
import { probabilityOf } from '../calibration/logistic.ts';
import { hesitationsOf } from './lexicon.ts';
import { spokenOf } from './spoken.ts';
import { saidEvidence } from './wordEvidence.ts';

/** A hesitation that is less likely than this to be one is not written. */
const LEAST_LIKELY = 0.5;

/**
 * Words that a recogniser heard, without the hesitations that it heard in a breath, a chair or the end of another word: each is
 * checked against how much the sound there is like hesitating.
 * @param hesitation track by track
 */
export function checkedHesitations(
  words: readonly Word[],
  language: string,
  hesitation: readonly HesitationCurve[],
): readonly Word[] {
  const written = hesitationsOf(language, 'shipped');
  const spoken = spokenOf(words, language, () => ({ silences: [], timing: EXACT_TIMES }));
  return words.filter(
    (_, k) =>
      !written.has(spoken.plain[k] as string) ||
      probabilityOf(FITTED.hesitations, saidEvidence(spoken, k, 1, hesitation)) >= LEAST_LIKELY,
  );
}
