import type { Seconds } from '../../time/range.ts';
import { endsSentence, type Word } from '../../transcript/word.ts';
import type { SpeechPart } from './partsOfSpeech.ts';
import type { Spoken } from './spoken.ts';
import { DETERMINERS, PREPOSITIONS, wordSet } from './wordClasses.ts';

/** What stands round one to three words that may be a filler. */
export interface Context {
  /** plain words before and after, the nearest first; empty past an end of the sentence or the recording */
  readonly before: (distance: number) => string;
  readonly after: (distance: number) => string;
  /** silence on either side; endless past the recording's ends */
  readonly gapBefore: Seconds;
  readonly gapAfter: Seconds;
  /** a hesitation on either side */
  readonly hesitatesBefore: boolean;
  readonly hesitatesAfter: boolean;
  readonly commaBefore: boolean;
  readonly commaAfter: boolean;
  readonly startsSentence: boolean;
  readonly endsSentence: boolean;
  readonly asks: boolean;
  /** set in small letters where a sentence starts, in a text that has capitals there */
  readonly smallStart: boolean;
  /** part of speech of the next word, and of the one before */
  readonly partAfter: () => SpeechPart;
  readonly partBefore: () => SpeechPart;
}

/** A pause of this length is heard as one. */
const HEARD_PAUSE: Seconds = 0.09;
/** In a text without signs, a pause of this length starts a sentence; one of the longer length does in any. */
const SENTENCE_PAUSE: Seconds = 0.45;
const RESTART_PAUSE: Seconds = 1;

/** @param hesitations plain words that are skipped: what stands round somebody's "um" stands round what he says beside it */
export function contextOf(spoken: Spoken, first: number, count: number, hesitations: ReadonlySet<string>): Context {
  const { words, plain } = spoken;
  const [word, last] = [words[first] as Word, words[first + count - 1] as Word];
  // Another speaker's words are no context but a turn.
  const [beside, besideToo] = [sameVoice(words[first - 1], word), sameVoice(words[first + count], word)];
  const gapBefore = beside ? Math.max(0, word.start - beside.end) : Number.POSITIVE_INFINITY;
  const gapAfter = besideToo ? Math.max(0, besideToo.start - last.end) : Number.POSITIVE_INFINITY;
  const behind = neighboursOf(spoken, first, -1, hesitations);
  const ahead = neighboursOf(spoken, first + count - 1, 1, hesitations);
  const previous = words[behind[0] as number];
  const startsSentence =
    !previous || endsSentence(previous.text) || gapBefore >= (spoken.punctuated ? RESTART_PAUSE : SENTENCE_PAUSE);
  const before = (distance: number): string => (startsSentence ? '' : (plain[behind[distance - 1] as number] ?? ''));
  const after = (distance: number): string => plain[ahead[distance - 1] as number] ?? '';
  const hesitatesBefore = beside !== undefined && hesitations.has(plain[first - 1] as string);
  return {
    before,
    after,
    gapBefore,
    gapAfter,
    hesitatesBefore,
    hesitatesAfter: besideToo !== undefined && hesitations.has(plain[first + count] as string),
    commaBefore: !startsSentence && [beside, previous].some((one) => COMMA.test(one?.text ?? '')),
    commaAfter: COMMA.test(last.text),
    startsSentence,
    endsSentence: endsSentence(last.text) || ahead.length === 0 || (!spoken.punctuated && gapAfter >= SENTENCE_PAUSE),
    asks: last.text.endsWith('?'),
    smallStart: startsSentence && previous !== undefined && !hesitatesBefore && spoken.capitals && /^\p{Ll}/u.test(word.text),
    partAfter: () => spoken.partOf(after(1)),
    partBefore: () => spoken.partOf(before(1)),
  };
}

const COMMA = /[,;:–—-]$/;
/** Words on either side that a rule may look at, and as many more that may be hesitations. */
const LOOKED_AT = 3;

/** Places of the words on one side, the nearest first: of one speaker, up to the end of the sentence, without hesitations. */
function neighboursOf({ words, plain }: Spoken, from: number, step: 1 | -1, hesitations: ReadonlySet<string>): number[] {
  const found: number[] = [];
  for (let n = 1; n <= 2 * LOOKED_AT && found.length < LOOKED_AT; n++) {
    const at = from + n * step;
    const ends = endsSentence(words[step > 0 ? at - 1 : at]?.text ?? '');
    // A sentence that ends just before the words is what makes them start one.
    if (!sameVoice(words[at], words[from] as Word) || (ends && (step > 0 || found.length > 0))) break;
    if (ends || !hesitations.has(plain[at] as string)) found.push(at);
  }
  return found;
}

const sameVoice = (other: Word | undefined, word: Word): Word | undefined =>
  other?.speaker === word.speaker ? other : undefined;

/** Something that speaks for or against a filler, in nats of evidence. */
export interface Rule {
  readonly id: string;
  readonly weight: number;
  readonly when: (context: Context) => boolean;
}

const rule = (id: string, weight: number, when: Rule['when']): Rule => ({ id, weight, when });

const BE = wordSet(
  "is are was were be been being am it's that's he's she's there's i'm you're we're they're what's isn't wasn't",
);
const SENSES = wordSet(
  'look looks looked looking feel feels felt sound sounds sounded taste tastes smell smells seem seems act acts',
);
const SUBJECTS = wordSet(
  "i you we they he she it who people would do don't didn't did does doesn't to i'd you'd we'd might could also",
);
const PLACES = wordSet(
  'in on at under over behind next through up down into by beside before after to above below across where when',
);
const CLAUSE = wordSet(
  "i you we they he she it there that this the a an it's that's there's we're you're they're i'm if when what my why how nobody everybody somebody everyone someone",
);
const PEOPLE = wordSet('nobody everybody somebody anybody everyone someone anyone');
/** Behind one of these a clause of its own cannot begin. */
const INSIDE = new Set([
  ...BE,
  // "All that you know": such a word may begin the clause.
  ...[...DETERMINERS].filter((word) => !['this', 'that', 'these', 'those'].includes(word)),
  ...wordSet('would could can might will should must may had has have just quite very really in on at of from with by into'),
]);
/** Whether a clause of its own would stand in the middle of another: after its auxiliary, its article, its preposition. */
const isInside = (c: Context): boolean => INSIDE.has(c.before(1)) && c.before(2) !== '' && !isAsked(c);
/** "What could you see": in a question the auxiliary stands before its subject. */
const isAsked = (c: Context): boolean => wordSet('what how where when why who which').has(c.before(2));
/** "Like a minute", "like every other day": about so much, and no comparison. */
const QUANTITIES = wordSet('every half no nothing nobody all');
const MEASURES = wordSet(
  'whole minute second hour day week month year mile quarter half dozen hundred thousand million lot couple few bit third',
);
const isQuantity = (c: Context): boolean =>
  QUANTITIES.has(c.after(1)) || (['a', 'an', 'the'].includes(c.after(1)) && MEASURES.has(c.after(2)));
const CONJUNCTIONS = wordSet('and but so because');
/** Words that turn a statement into a question or a denial. */
const ASKS_OR_DENIES = wordSet(
  "what how whether if where why which who not never nobody nothing no did do does didn't don't doesn't can could couldn't can't won't have has hasn't haven't isn't wasn't",
);
/** What is said by the way: no clause begins with it. */
const ASIDES = new Set(['you know', 'you see', 'i mean']);
const COMPARED = wordSet('something anything nothing things someone people more much a one just exactly rather not');

/** What holds for every entry. */
const GENERAL: readonly Rule[] = [
  rule('setOff', 2.4, (c) => c.commaBefore && c.commaAfter),
  rule('commaBefore', 1.1, (c) => c.commaBefore && !c.commaAfter),
  rule('commaAfter', 1.2, (c) => c.commaAfter && !c.commaBefore),
  rule('pauseBefore', 0.5, (c) => !c.startsSentence && !c.commaBefore && c.gapBefore >= HEARD_PAUSE),
  rule('pauseAfter', 0.7, (c) => !c.endsSentence && !c.commaAfter && c.gapAfter >= HEARD_PAUSE),
  rule('betweenPauses', 1.6, (c) => !c.startsSentence && !c.endsSentence && c.gapBefore >= 0.15 && c.gapAfter >= 0.15),
  rule('hesitatesBefore', 0.5, (c) => c.hesitatesBefore),
  rule('hesitatesAfter', 0.7, (c) => c.hesitatesAfter),
  rule('smallStart', 2, (c) => c.smallStart),
  rule('alone', -2.5, (c) => c.startsSentence && c.endsSentence && c.gapAfter > 0.3),
];

/** What each entry starts from, and what speaks for and against it. */
const ENTRIES: Readonly<Record<string, { readonly base: number; readonly rules: readonly Rule[] }>> = {
  like: {
    base: 0.1,
    rules: [
      rule('compared', -4.5, (c) => SENSES.has(c.before(1))),
      rule('liked', -4, (c) => SUBJECTS.has(c.before(1)) && !c.commaBefore),
      rule(
        'likes',
        -2,
        (c) =>
          c.partBefore() === 'noun' &&
          !c.commaBefore &&
          c.before(2) !== 'of' &&
          c.gapAfter < HEARD_PAUSE &&
          ['adjective', 'noun'].includes(c.partAfter()),
      ),
      rule('such', -3.5, (c) => COMPARED.has(c.before(1)) && !c.commaBefore && c.after(1) !== ''),
      rule(
        'kind',
        -2.6,
        (c) => c.partBefore() === 'noun' && !c.commaBefore && !c.startsSentence && DETERMINERS.has(c.after(1)) && !isQuantity(c),
      ),
      rule(
        'moves',
        -2.6,
        (c) =>
          c.partBefore() === 'verb' &&
          !c.commaBefore &&
          !c.startsSentence &&
          c.gapAfter < HEARD_PAUSE &&
          !isQuantity(c) &&
          (DETERMINERS.has(c.after(1)) || c.partAfter() === 'noun'),
      ),
      rule('example', -2, (c) => c.startsSentence && !c.smallStart && DETERMINERS.has(c.after(1))),
      rule('afterBe', 0.9, (c) => BE.has(c.before(1)) && !DETERMINERS.has(c.after(1))),
      rule(
        'isLike',
        -2.2,
        (c) => BE.has(c.before(1)) && DETERMINERS.has(c.after(1)) && c.gapAfter < HEARD_PAUSE && !c.commaAfter && !isQuantity(c),
      ),
      rule('beforePreposition', 1.6, (c) => PREPOSITIONS.has(c.after(1))),
      rule('beforeNumber', 1.6, (c) => c.partAfter() === 'number'),
      rule(
        'beforeClause',
        1.3,
        (c) => SUBJECTS.has(c.after(1)) && !SUBJECTS.has(c.before(1)) && !ASIDES.has(`${c.after(1)} ${c.after(2)}`),
      ),
      rule('beforeAdverb', 1.3, (c) => ['adverb', 'adjective'].includes(c.partAfter())),
      rule(
        'afterFunction',
        1.4,
        (c) =>
          wordSet('the a and but so just had really').has(c.before(1)) ||
          (['was', 'were'].includes(c.before(1)) && !DETERMINERS.has(c.after(1))),
      ),
      rule('quantity', 1, isQuantity),
    ],
  },
  so: {
    base: -0.9,
    rules: [
      rule(
        'degree',
        -4,
        (c) =>
          !c.startsSentence &&
          (wordSet('much many far long little few well often that as').has(c.after(1)) ||
            ['adjective', 'adverb'].includes(c.partAfter())) &&
          !c.commaAfter,
      ),
      rule(
        'degreeAtStart',
        -3,
        (c) => c.startsSentence && wordSet('much many far long little few').has(c.after(1)) && !c.commaAfter,
      ),
      rule(
        'fixed',
        -4,
        (c) =>
          wordSet(
            'and or if think even just not do did does say says said hope is are was be why ever quite hundred dozen minute believe suppose',
          ).has(c.before(1)) && !c.commaAfter,
      ),
      rule('therefore', -1.6, (c) => c.commaBefore && !c.commaAfter && c.gapAfter < HEARD_PAUSE),
      rule('opens', 1.2, (c) => c.startsSentence && (c.commaAfter || c.gapAfter >= HEARD_PAUSE)),
      rule('imperative', 0.6, (c) => c.startsSentence && c.partAfter() === 'verb'),
      rule(
        'purpose',
        -2,
        (c) => !c.startsSentence && !c.commaAfter && wordSet('can could will would').has(c.after(2)) && SUBJECTS.has(c.after(1)),
      ),
      rule('trails', 2.4, (c) => c.endsSentence && !c.startsSentence && (c.commaBefore || c.gapBefore >= HEARD_PAUSE)),
    ],
  },
  well: {
    base: -1.4,
    rules: [
      rule('opens', 2.6, (c) => c.startsSentence),
      rule(
        'done',
        -4.5,
        (c) =>
          wordSet('made done known worn kept cut set put oiled built said played fitted worth lit fed').has(c.after(1)) &&
          !c.commaAfter,
      ),
      rule('joins', 2.5, joinsClauses),
      rule('manner', -3.5, (c) => !c.startsSentence && !c.commaBefore && c.gapBefore < HEARD_PAUSE && !joinsClauses(c)),
      rule(
        'degree',
        -3,
        (c) =>
          wordSet('as very so pretty quite really not too how works work worked runs run fits went goes go did do sleep').has(
            c.before(1),
          ) && !c.commaBefore,
      ),
      rule('beforePlace', -2, (c) => wordSet('over into before above below beyond past within').has(c.after(1)) && !c.commaAfter),
      rule('spring', -4, (c) => DETERMINERS.has(c.before(1)) && c.partAfter() !== 'noun'),
    ],
  },
  right: {
    base: -1.2,
    rules: [
      rule(
        'opens',
        2.4,
        (c) => c.startsSentence && (c.commaAfter || c.gapAfter >= HEARD_PAUSE || c.smallStart || CLAUSE.has(c.after(1))),
      ),
      rule('tag', 3.2, (c) => c.endsSentence && (c.commaBefore || c.asks) && !DETERMINERS.has(c.before(1))),
      rule('aside', 1.4, (c) => c.commaBefore && !PLACES.has(c.after(1))),
      rule(
        'theRight',
        -4.5,
        (c) =>
          (DETERMINERS.has(c.before(1)) &&
            !(wordSet('this that these those').has(c.before(1)) && CONJUNCTIONS.has(c.after(1)))) ||
          wordSet('to on far upper lower').has(c.before(1)),
      ),
      rule(
        'beforeAnd',
        1.5,
        (c) =>
          CONJUNCTIONS.has(c.after(1)) &&
          (CLAUSE.has(c.after(2)) || c.after(2) === 'then') &&
          !c.startsSentence &&
          c.before(1) !== 'it' &&
          c.partBefore() !== 'verb',
      ),
      rule(
        'isRight',
        -3.5,
        (c) =>
          (BE.has(c.before(1)) ||
            wordSet('all quite not about just exactly only half get got set sounds looks feels go goes went came turn turns').has(
              c.before(1),
            )) &&
          !c.commaBefore,
      ),
      rule('place', -2.6, (c) => PLACES.has(c.after(1)) && !c.commaAfter && c.gapAfter < HEARD_PAUSE),
      rule(
        'rightThing',
        -2.6,
        (c) =>
          (wordSet('now away here there hand side angle way time place').has(c.after(1)) || c.partAfter() === 'noun') &&
          !c.commaAfter &&
          !c.startsSentence,
      ),
    ],
  },
  'you know': {
    base: 0.6,
    rules: [
      rule(
        'knows',
        -3.6,
        (c) =>
          wordSet(
            'that what how why where when who whether which it him her them his about of enough nothing anything something everything better more as',
          ).has(c.after(1)) &&
          !c.commaAfter &&
          c.gapAfter < HEARD_PAUSE,
      ),
      rule(
        'theThing',
        -2.2,
        (c) =>
          (DETERMINERS.has(c.after(1)) || c.partAfter() === 'noun') &&
          !isInside(c) &&
          !c.commaAfter &&
          !c.commaBefore &&
          c.gapAfter < HEARD_PAUSE &&
          (c.startsSentence || c.gapBefore < HEARD_PAUSE),
      ),
      rule(
        'asked',
        -3.6,
        (c) =>
          wordSet(
            "do did if as would should let don't what how because once until before than when may could that everything all",
          ).has(c.before(1)) &&
          !c.commaBefore &&
          !isInside(c),
      ),
      rule('inPhrase', 1.4, (c) => wordSet('is was are were just and but the a it').has(c.before(1))),
      rule('inside', 2, isInside),
      rule('noObject', 1, (c) => ['adjective', 'number'].includes(c.partAfter()) || wordSet('because but so').has(c.after(1))),
      rule('ends', 1, (c) => c.endsSentence && !c.startsSentence && !wordSet('do did if as let').has(c.before(1))),
    ],
  },
  'you see': {
    base: -0.6,
    rules: [
      rule(
        'sees',
        -3.4,
        (c) =>
          wordSet('that what how why where when if it him her them this these those the a an my no any').has(c.after(1)) &&
          !c.commaAfter,
      ),
      rule('asked', -3.4, (c) =>
        wordSet("do did if as would should can will until when once before what that don't could").has(c.before(1)),
      ),
      rule('ends', 1.2, (c) => c.endsSentence && c.commaBefore),
    ],
  },
  'i mean': {
    base: 1.2,
    rules: [
      rule(
        'meant',
        -4,
        (c) =>
          (wordSet('what that which do did if all how by whatever thing ones one think').has(c.before(1)) ||
            [2, 3].some((distance) => wordSet('by say says').has(c.before(distance)))) &&
          !c.commaBefore,
      ),
      rule('meantAtEnd', -2, (c) => c.endsSentence && !c.startsSentence && !c.commaBefore),
      rule(
        'aThing',
        -0.8,
        (c) =>
          (DETERMINERS.has(c.after(1)) || c.after(1) === 'you' || c.partAfter() === 'noun') &&
          !PEOPLE.has(c.after(1)) &&
          !c.commaAfter &&
          c.gapAfter < HEARD_PAUSE &&
          !isInside(c),
      ),
      rule(
        'intend',
        -3.4,
        (c) => wordSet('to it by well business no what every').has(c.after(1)) && !c.commaAfter && c.gapAfter < HEARD_PAUSE,
      ),
      rule('inside', 2, isInside),
      rule('beforeClause', 1, (c) => CLAUSE.has(c.after(1)) && !DETERMINERS.has(c.after(1)) && c.after(2) !== ''),
    ],
  },
  'kind of': { base: 0.7, rules: kindOf() },
  'sort of': { base: 0.7, rules: kindOf() },
  actually: {
    base: 0.1,
    rules: [
      rule('opens', 1.4, (c) => c.startsSentence),
      rule(
        'inFact',
        -1.8,
        (c) =>
          !c.startsSentence &&
          !c.commaBefore &&
          !c.commaAfter &&
          (ASKS_OR_DENIES.has(c.before(2)) || ASKS_OR_DENIES.has(c.before(1))),
      ),
      rule('beforeVerb', -0.3, (c) => !c.startsSentence && !c.commaBefore && !c.commaAfter && c.partAfter() === 'verb'),
      rule('afterBe', -0.5, (c) => BE.has(c.before(1)) && c.partAfter() !== 'adjective'),
      rule('hedge', 1, (c) => (BE.has(c.before(1)) && c.partAfter() === 'adjective') || c.partBefore() === 'function'),
      rule('ends', 0.8, (c) => c.endsSentence && !c.startsSentence),
    ],
  },
  basically: {
    base: 1.4,
    rules: [rule('built', -1.6, (c) => BE.has(c.before(1)) && c.partAfter() === 'adjective')],
  },
  okay: { base: -0.9, rules: okay() },
  ok: { base: -0.9, rules: okay() },
  now: {
    base: -1.2,
    rules: [
      rule(
        'time',
        -3,
        (c) =>
          wordSet('right by until till from just even only for and is are up ever then it here before not up now do').has(
            c.before(1),
          ) && !c.commaBefore,
      ),
      rule(
        'nowThat',
        -3,
        (c) =>
          wordSet('that and then on is was it').has(c.after(1)) &&
          !c.commaAfter &&
          !(c.startsSentence && wordSet('that it').has(c.after(1)) && c.smallStart),
      ),
      rule('opens', 2.6, (c) => c.startsSentence && (c.commaAfter || c.gapAfter >= HEARD_PAUSE)),
      rule('opensPlain', 0.4, (c) => c.startsSentence && !c.commaAfter && c.gapAfter < HEARD_PAUSE),
      rule('ends', -2, (c) => c.endsSentence && !c.startsSentence),
    ],
  },
};

/** Between a conjunction, or what somebody said, and the clause that it joins. */
function joinsClauses(c: Context): boolean {
  return (
    (CONJUNCTIONS.has(c.before(1)) || wordSet('said thought says').has(c.before(1))) &&
    CLAUSE.has(c.after(1)) &&
    c.after(1) !== 'that'
  );
}

function kindOf(): readonly Rule[] {
  return [
    rule(
      'aKind',
      -4.6,
      (c) =>
        DETERMINERS.has(c.before(1)) ||
        wordSet('what some any one two three other same another different all certain new many which right first best').has(
          c.before(1),
        ),
    ),
    rule('softens', 1.4, (c) => ['adjective', 'verb', 'adverb'].includes(c.partAfter()) || DETERMINERS.has(c.after(1))),
  ];
}

function okay(): readonly Rule[] {
  return [
    rule('opens', 1.8, (c) => c.startsSentence && (c.commaAfter || c.gapAfter >= HEARD_PAUSE || c.smallStart)),
    rule(
      'fine',
      -4,
      (c) =>
        (BE.has(c.before(1)) || SENSES.has(c.before(1)) || wordSet('an not be perfectly quite go goes went').has(c.before(1))) &&
        !c.commaBefore,
    ),
    rule('with', -3, (c) => wordSet('with to for if that').has(c.after(1)) && !c.commaAfter && !c.startsSentence),
    rule('answer', -2, (c) => wordSet('yes no yeah oh').has(c.before(1))),
    rule('tag', 3, (c) => c.endsSentence && c.commaBefore),
  ];
}

/** What is not in the table is judged by its surroundings alone. */
const UNKNOWN = { base: 0.2, rules: [] };

export interface Judged {
  /** log-odds that it is a filler, by its surroundings alone */
  readonly score: number;
  /** rules that applied, with their weights */
  readonly evidence: Readonly<Record<string, number>>;
}

/** Judges words that are often a filler by what stands round them, adding up evidence as a logistic regression does. */
export function judge(phrase: string, context: Context): Judged {
  const { base, rules } = ENTRIES[phrase] ?? UNKNOWN;
  const evidence: Record<string, number> = {};
  let sum = base;
  for (const { id, weight, when } of [...GENERAL, ...rules]) {
    if (!when(context)) continue;
    evidence[id] = weight;
    sum += weight;
  }
  return { score: Math.round(sum * 100) / 100, evidence };
}

/** Every rule by its name, each once. */
export const FILLER_RULES: readonly string[] = [
  ...new Set([...GENERAL, ...Object.values(ENTRIES).flatMap(({ rules }) => rules)].map(({ id }) => id)),
];
