import type { Judged } from '@/core/detect/calibration/calibration.ts';
import { FILLER_RULES } from '@/core/detect/words/fillerRules.ts';
import { lexiconOf } from '@/core/detect/words/lexicon.ts';
import { REPEAT_RULES } from '@/core/detect/words/repeats.ts';

/** Entries that are judged by their context, each with a leaning of its own. */
const ENTRIES = lexiconOf('en', 'shipped').flatMap(({ phrase, strength }) => (strength === 'often' ? [phrase] : []));

/** What holds for any written words: see wordEvidence.ts. */
const SAID = ['clean', 'sure', 'drawnOut', 'touches', 'inexact'];
const LIKE = ['listened', 'soundsLike', 'muchLike'];

/** What each model may go by. */
export const MODELS: Readonly<Record<Judged, { readonly names: readonly string[] }>> = {
  pauses: { names: ['margin', 'doubt', 'specks', 'breaths', 'noise', 'seconds', 'speech', 'unheard'] },
  hesitations: {
    names: [...SAID, 'inexactTouches', ...LIKE, 'cleanLike', 'cleanUnheard'],
  },
  fillers: {
    names: [
      'score',
      'scoreOver',
      'cleanScore',
      'cleanOver',
      ...SAID.filter((name) => name !== 'drawnOut'),
      'drawnInDoubt',
      'inexactTouches',
      ...FILLER_RULES,
      ...ENTRIES.map((phrase) => `entry ${phrase}`),
    ],
  },
  heard: {
    names: [
      'heldSeconds',
      'heldShare',
      'logSeconds',
      'spectrumChange',
      'pitchSpread',
      'pauseBeside',
      'pausesBoth',
      'spareRoom',
      'underNeighbours',
      'neighboursSure',
      'wordsMissing',
      'speech',
      'unheard',
      'inexact',
      'clean',
      ...LIKE,
    ],
  },
  underWord: {
    names: [...SAID, 'seconds', ...LIKE, 'heldSeconds', 'pauseBefore', 'pauseAfter'],
  },
  repeats: {
    names: ['score', 'cleanScore', ...SAID, 'inexactTouches', ...REPEAT_RULES],
  },
  takesByWords: {
    names: [
      'matches',
      'contentMatches',
      'share',
      'changed',
      'meaning',
      'more',
      'small',
      'unsure',
      'broken',
      'goesOn',
      'equal',
      'equalBeside',
      'brokenBeside',
      'wordsBetween',
      'beside',
      'shortLine',
      'gap',
      'cue',
      'listened',
      'unlikeOther',
      'alikeOther',
      'worstOther',
      'goneThrough',
      'goneBeside',
      'wholeBeside',
      'clean',
      'equalClean',
      'brokenClean',
      'changedClean',
    ],
  },
  takesBySound: {
    names: [
      'gap',
      'soundBetween',
      'matched',
      'shareLeft',
      'shareBoth',
      'closeness',
      'worst',
      'goneThrough',
      'goneBeside',
      'wholeBeside',
      'worstWhole',
    ],
  },
};

/** Weights of a frame's description are many and alike: held back more. */
export const HESITATION_RIDGE = 60;
/** Of frames that are no hesitation every so many count. */
export const HESITATION_STRIDE = 4;

/** How strongly weights may be held back, in examples; what tells recordings best that it has not seen is taken. */
export const RIDGES = [0.5, 2, 8, 32];
