import type { Seconds } from '../../time/range.ts';
import type { Spoken } from '../words/spoken.ts';
import { ARTICLES, wordSet } from '../words/wordClasses.ts';
import { type Aside, doubtful } from './aside.ts';
import type { Utterance } from './utterances.ts';

const LEAST_WORDS = 2;
const MOST_WORDS = 30;
/** Who drops a sentence waits before the next. */
const LEAST_PAUSE: Seconds = 0.4;
/** Where no sign tells, the pause must be no pause for a word. */
const CLEAR_PAUSE: Seconds = 0.7;
const LONG_PAUSE: Seconds = 1;

/** Sentences that stop in their middle and are dropped. */
export function brokenOff(spoken: Spoken, utterances: readonly Utterance[]): Aside[] {
  const anew = spoken.punctuated && spoken.capitals ? bySigns : byGrammar;
  return utterances.flatMap((utterance, k): Aside[] => {
    const next = utterances[k + 1];
    const { first, last, start, end, after, sure } = utterance;
    const count = last - first;
    if (!sure || !next?.sure || count < LEAST_WORDS || count > MOST_WORDS) return [];
    if (spoken.words[next.first]?.speaker !== spoken.words[first]?.speaker) return [];
    const evidence = anew(spoken, utterance, next);
    if (!evidence) return [];
    const weighed = { ...evidence, ...(after >= LONG_PAUSE && { longPause: 0.5 }) };
    const sum = -0.6 + Object.values(weighed).reduce((a, b) => a + b, 0);
    return [{ kind: 'broken', start, end, confidence: doubtful(sum), evidence: weighed }];
  });
}

/** No sign at the end, and a capital behind the pause: a sentence of its own. */
function bySigns({ words, plain, partOf }: Spoken, { last, after, signed, capital }: Utterance, next: Utterance) {
  const startsAnew = next.capital && !/^I(['’]|$)/.test(words[next.first]?.text ?? '');
  if (signed || !capital || !startsAnew || after < LEAST_PAUSE) return undefined;
  return { startsAnew: 1.2, ...(partOf(plain[last - 1] ?? '') === 'function' && { grammar: 1 }) };
}

/**
 * Text without signs, as recognisers write it: only where no sentence can go on as this one does. Most that are dropped
 * end otherwise, and stay unseen.
 */
function byGrammar({ language, plain }: Spoken, { last, after }: Utterance, next: Utterance) {
  const [word, behind] = [plain[last - 1] ?? '', plain[next.first] ?? ''];
  if (!language.startsWith('en') || after < CLEAR_PAUSE || word === behind) return undefined;
  const stops = ARTICLES.has(word)
    ? BEGINNINGS.has(behind) || ARTICLES.has(behind)
    : ASKS_NOUN.has(word) && BEGINNINGS.has(behind);
  return stops ? { grammar: 1 } : undefined;
}

/** What else asks for a noun and is no particle of a verb. */
const ASKS_NOUN = wordSet('of into onto during between against towards');
/** Words that begin a clause, and are never part of what an article asks for. */
const BEGINNINGS = wordSet("i i'm i'll i've i'd we we're we'll we've he he's she she's they they're they'll and but because so");
