import type { Proposal } from '@/core/detect/detector.ts';
import { isOf } from '@/core/detect/kinds.ts';
import { OTHERWISE } from '@/core/detect/takes/takes.ts';
import { ASIDE_REASONS, FILLER_REASONS, REPEAT_REASONS } from './reasonWords.ts';

type Evidence = Proposal['evidence'];

/** Why words are taken for a filler, a repeat or a retake, in words, the weightiest reason first; what was taught about it comes last. */
export const reasonsFor = (proposal: Pick<Proposal, 'kind' | 'evidence'>): string[] => {
  const { untaught } = proposal.evidence;
  const before = untaught === undefined ? [] : [`${Math.round(100 * untaught)} % before what earlier recordings taught`];
  return [...reasonsFound(proposal), ...before];
};

function reasonsFound({ kind, evidence }: Pick<Proposal, 'kind' | 'evidence'>): string[] {
  if (kind === 'repeat')
    return [...worded(evidence, (id) => REPEAT_REASONS[id as keyof typeof REPEAT_REASONS]), ...doubtsOf(evidence)];
  if (kind === 'retake') return retakeReasons(evidence);
  if (isOf('asides', kind)) return worded(evidence, (id) => ASIDE_REASONS[id as keyof typeof ASIDE_REASONS]);
  if (kind !== 'filler') return [];
  if (evidence.hesitation) return ['a hesitation, whatever stands round it', ...likeness(evidence), ...doubtsOf(evidence)];
  if (evidence.askedFor) return ['on your list of words that go when asked'];
  if (evidence.underWord)
    return [
      evidence.heldSeconds ? `held for ${evidence.heldSeconds} s under a word that takes less time` : 'under a written word',
      ...likeness(evidence),
      ...doubtsOf(evidence),
    ];
  if (evidence.heldSeconds !== undefined)
    return [
      evidence.heldSeconds > 0
        ? `voiced sound held for ${evidence.heldSeconds} s where no word is written`
        : 'a sound where no word is written',
      ...likeness(evidence),
      ...(evidence.pauseBeside !== undefined && evidence.pauseBeside >= 0.08 ? ['a pause beside it'] : []),
      ...((evidence.wordsMissing ?? 0) >= WORDS_MISSING ? ['but this transcript leaves out other words as well'] : []),
    ];
  return [...worded(evidence, (id) => FILLER_REASONS[id]), ...doubtsOf(evidence)];
}

/** Log-odds from which on a sound is, or is not, much like hesitating. */
const LIKE = -2;
const UNLIKE = -5;
const WORDS_MISSING = 0.06;
const UNSURE = 0.7;

function likeness({ listened, soundsLike = 0 }: Evidence): string[] {
  if (!listened) return [];
  if (soundsLike >= LIKE) return ['it sounds like hesitating'];
  return soundsLike <= UNLIKE ? ['it does not sound like hesitating'] : [];
}

const OVER_OTHERS = 'somebody else speaks meanwhile, and would be cut with it';

/** What makes a written word doubtful, whatever it says. */
function doubtsOf({ sure = 1, inexactTouches = 0, overOthers = 0, guessedTimes = 0 }: Evidence): string[] {
  return [
    ...(overOthers > 0 ? [OVER_OTHERS] : []),
    ...(guessedTimes > 0 ? ['only its line has times, and where in it this is said is guessed'] : []),
    ...(sure < UNSURE ? ['the recogniser was not sure of it'] : []),
    ...(inexactTouches > 0 ? ['its neighbours are close, and the times of this transcript are not exact'] : []),
  ];
}

function retakeReasons(evidence: Evidence): string[] {
  const { matches, equal, broken, cue, wordsBetween = 0, listened, heardAlike, worst = 0, overOthers = 0 } = evidence;
  const otherwise = Object.keys(evidence).flatMap((name) => (name.startsWith(OTHERWISE) ? [name.slice(OTHERWISE.length)] : []));
  return [
    ...(matches === undefined ? [] : [equal ? 'word for word the same' : `${matches} words the same`]),
    ...(otherwise.length > 0 ? [`but said otherwise: ${otherwise.join('; ')}`] : []),
    ...(broken ? ['one of them breaks off'] : []),
    ...(cue ? ['a word to whoever cuts stands between'] : []),
    ...(wordsBetween > 0 ? ['but something else is said between'] : []),
    ...(heardAlike ? [worst > DIFFERS ? 'sounds alike but for one place' : 'sounds alike all through'] : []),
    ...(listened && !heardAlike ? ['but it does not sound alike'] : []),
    ...(overOthers > 0 ? [`but ${OVER_OTHERS}`] : []),
  ];
}

const DIFFERS = 0.6;

function worded(evidence: Evidence, wordsOf: (id: string) => string | undefined): string[] {
  return Object.entries(evidence)
    .sort(([, a], [, b]) => Math.abs(b) - Math.abs(a))
    .flatMap(([id, weight]) => {
      const words = wordsOf(id);
      if (!words) return [];
      return [weight < 0 && !words.includes('likely meant') ? `${words}: likely meant` : words];
    });
}
