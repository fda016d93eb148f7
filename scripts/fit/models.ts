import type { Judged } from '@/core/detect/calibration/calibration.ts';
import { type Evidence, isClean } from '@/core/detect/calibration/logistic.ts';
import { FILLER_RULES } from '@/core/detect/words/fillerRules.ts';
import { lexiconOf } from '@/core/detect/words/lexicon.ts';
import { REPEAT_RULES } from '@/core/detect/words/repeats.ts';

/** Entries that are judged by their context, each with a leaning of its own. */
const ENTRIES = lexiconOf('en', 'shipped').flatMap(({ phrase, strength }) => (strength === 'often' ? [phrase] : []));

/** What holds for any written words: see wordEvidence.ts. */
const SAID = ['clean', 'sure', 'drawnOut', 'touches', 'inexact'];
/** The same where length tells only in a transcript in doubt. */
const SAID_BY_CHOICE = ['clean', 'sure', 'drawnInDoubt', 'touches', 'inexact'];
const LIKE = ['listened', 'soundsLike', 'muchLike'];

/** What tells of two sayings with words. */
const BY_WORDS = [
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
  'brokenAlone',
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
];

/** What a model goes by, and what it learns from. */
interface ModelForm {
  readonly names: readonly string[];
  /** which examples it judges, and learns from; all when left out */
  readonly judges?: (evidence: Evidence) => boolean;
  /** the model of whose examples it learns, from all of them */
  readonly learnsFrom?: Judged;
}

/** What each model may go by. */
export const MODELS: Readonly<Record<Judged, ModelForm>> = {
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
      ...SAID_BY_CHOICE,
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
    names: ['score', 'cleanScore', ...SAID_BY_CHOICE, 'inexactTouches', ...REPEAT_RULES],
  },
  takesByWords: { names: BY_WORDS, judges: isClean },
  // There are more clean ones, and what words tell is much the same in both.
  takesInDoubt: {
    names: [...BY_WORDS, 'clean', 'equalClean', 'brokenClean', 'changedClean', 'earInDoubt', 'unwritten'],
    judges: (evidence) => !isClean(evidence),
    learnsFrom: 'takesByWords',
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
      'wholeGone',
      'worstWhole',
      'worstBeside',
      'worstApart',
      'gapAlike',
    ],
  },
};

/** The ridge of the model by ear, where it tells what the ear adds to words. */
export const EAR_RIDGE = 0.5;
/** Weights of a frame's description are many and alike: held back more. */
export const HESITATION_RIDGE = 60;
/** Of frames that are no hesitation every so many count. */
export const HESITATION_STRIDE = 4;

/** How strongly weights may be held back, in examples; what tells recordings best that it has not seen is taken. */
export const RIDGES = [0.5, 2, 8, 32];
