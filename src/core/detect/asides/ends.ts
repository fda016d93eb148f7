import type { Seconds } from '../../time/range.ts';
import type { Spoken } from '../words/spoken.ts';
import { wordSet } from '../words/wordClasses.ts';
import { type Aside, doubtful } from './aside.ts';
import type { Utterance } from './utterances.ts';

/** Chatter at an end is over within this time, and this share of the recording. */
const WITHIN: Seconds = 90;
const WITHIN_SHARE = 0.25;
const LONG_PAUSE: Seconds = 1;
const MOST_WORDS = 14;
/** Without signs, talk about the recording is chatter when it is this short and a long pause parts it from the rest. */
const MOST_UNSIGNED = 9;
const LEAST_SUM = 0.3;

/** Talk about the recording itself, before it and after it. */
const BEFORE = wordSet(
  'rolling recording recorded record camera mic microphone testing test check ready sound levels level light button focus hear on-air start',
);
const AFTER = wordSet("cut stop stopped recording camera mic microphone done button off got finished that's save card battery");
/** Said alone at either end, it is said to oneself. */
const ALONE = wordSet('okay ok yes yeah right so alright good fine there go now one two three four five and no oh hmm um uh');

/** Chatter before the first real sentence and after the last one. */
export function chatter(spoken: Spoken, utterances: readonly Utterance[], duration: Seconds): Aside[] {
  // Of the talk, not of the recording: a camera may run on long after it.
  const [begin, end] = [utterances[0]?.start ?? 0, utterances.at(-1)?.end ?? 0];
  const limit = Math.min(WITHIN, WITHIN_SHARE * (end - begin));
  const head = leading(
    spoken,
    utterances,
    BEFORE,
    (utterance) => utterance.end <= begin + limit,
    ({ after }) => after,
  );
  const tail = leading(
    spoken,
    [...utterances].reverse(),
    AFTER,
    (utterance) => utterance.start >= end - limit,
    ({ before }) => before,
  );
  return [
    ...asideOf(
      'head',
      'beforeStart',
      head,
      ({ after }) => after,
      0,
      (last) => last.end,
    ),
    ...asideOf(
      'tail',
      'behindEnd',
      tail,
      ({ before }) => before,
      (last) => last.start,
      duration,
    ),
  ];
}

interface Chatter {
  readonly utterance: Utterance;
  readonly camera: boolean;
  readonly noSign: boolean;
}

/** Utterances from an end on for as long as they are chatter; ends that hold no talk about the recording do not count. */
function leading(
  spoken: Spoken,
  utterances: readonly Utterance[],
  about: ReadonlySet<string>,
  within: (utterance: Utterance) => boolean,
  gapOf: (utterance: Utterance) => Seconds,
): Chatter[] {
  const found: Chatter[] = [];
  for (const utterance of utterances) {
    const plain = spoken.plain.slice(utterance.first, utterance.last);
    const camera = plain.some((word) => about.has(word));
    const noSign = spoken.punctuated && spoken.capitals && utterance.sure && !utterance.signed && !utterance.capital;
    const small = plain.every((word) => about.has(word) || ALONE.has(word));
    const short = plain.length <= MOST_WORDS;
    const apart = camera && !spoken.punctuated && plain.length <= MOST_UNSIGNED && gapOf(utterance) >= LONG_PAUSE;
    if (!within(utterance) || !short || !(small || noSign || apart)) break;
    found.push({ utterance, camera, noSign });
  }
  while (found.length > 0 && !found.at(-1)?.camera && !found.at(-1)?.noSign) found.pop();
  return found.length < utterances.length ? found : [];
}

function asideOf(
  kind: 'head' | 'tail',
  where: 'beforeStart' | 'behindEnd',
  found: readonly Chatter[],
  gapOf: (utterance: Utterance) => Seconds,
  start: Seconds | ((last: Utterance) => Seconds),
  end: Seconds | ((last: Utterance) => Seconds),
): Aside[] {
  const last = found.at(-1)?.utterance;
  if (!last) return [];
  const evidence = {
    [where]: 0.2,
    ...(found.some(({ camera }) => camera) && { camera: 1.2 }),
    ...(found.every(({ noSign }) => noSign) && { noSign: 0.9 }),
    ...(gapOf(last) >= LONG_PAUSE && { longPause: 0.8 }),
  };
  const sum = -0.6 + Object.values(evidence).reduce((a, b) => a + b, 0);
  if (sum < LEAST_SUM) return [];
  const edge = (side: Seconds | ((last: Utterance) => Seconds)) => (typeof side === 'function' ? side(last) : side);
  return [{ kind, start: edge(start), end: edge(end), confidence: doubtful(sum), evidence }];
}
