import type { Seconds } from '../../time/range.ts';
import { speechPartOf } from '../speechParts.ts';
import type { Spoken } from '../spoken.ts';
import { type Aside, doubtful } from './aside.ts';
import type { Utterance } from './utterances.ts';

const LEAST_WORDS = 2;
const MOST_WORDS = 30;
/** Who drops a sentence waits before the next. */
const LEAST_PAUSE: Seconds = 0.4;
const LONG_PAUSE: Seconds = 1;

/** Sentences that stop in their middle and are dropped: without signs nothing tells them from a pause for thought. */
export function brokenOff(spoken: Spoken, utterances: readonly Utterance[]): Aside[] {
  if (!spoken.punctuated || !spoken.capitals) return [];
  return utterances.flatMap(({ first, last, start, end, after, signed, capital, sure }, k): Aside[] => {
    const next = utterances[k + 1];
    const count = last - first;
    if (signed || !capital || !sure || !next || count < LEAST_WORDS || count > MOST_WORDS || after < LEAST_PAUSE) return [];
    const [nextWord, lastWord] = [spoken.words[next.first]?.text ?? '', spoken.plain[last - 1] ?? ''];
    if (spoken.words[next.first]?.speaker !== spoken.words[first]?.speaker) return [];
    const startsAnew = next.capital && next.sure && !/^I(['’]|$)/.test(nextWord);
    if (!startsAnew) return [];
    const evidence = {
      startsAnew: 1.2,
      ...(speechPartOf(lastWord) === 'function' && { grammar: 1 }),
      ...(after >= LONG_PAUSE && { longPause: 0.5 }),
    };
    const sum = -0.6 + Object.values(evidence).reduce((a, b) => a + b, 0);
    return [{ kind: 'broken', start, end, confidence: doubtful(sum), evidence }];
  });
}
