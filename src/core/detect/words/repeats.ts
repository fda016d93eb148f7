import { spokenWeight } from '../../align/weight.ts';
import type { HesitationCurve } from '../../curves/hesitation.ts';
import { overlapOf, type Seconds, shareHalf } from '../../time/range.ts';
import { type Hit, type Searched, searchIncrementally } from '../../transcript/incrementalSearch.ts';
import { stopsUnfinished, trailsOff, type Word } from '../../transcript/word.ts';
import type { Calibration } from '../calibration/calibration.ts';
import { FITTED } from '../calibration/fitted.ts';
import { probabilityOf } from '../calibration/logistic.ts';
import type { Detector, Material, Proposal } from '../detector.ts';
import { proposalOf } from './fillers.ts';
import { type Loudest, loudestIn } from './joining.ts';
import { hesitationsOf } from './lexicon.ts';
import type { PartOf } from './partsOfSpeech.ts';
import type { Spoken } from './spoken.ts';
import { ARTICLES, DETERMINERS, PREPOSITIONS, wordSet } from './wordClasses.ts';
import { saidEvidence, withGuessedTimes, withOthers } from './wordEvidence.ts';

export interface PreparedRepeats {
  readonly spoken: Spoken;
  readonly loudest: Loudest;
  readonly duration: number;
  readonly hesitation: readonly HesitationCurve[] | undefined;
  readonly calibration: Calibration;
  found: { readonly key: string; readonly repeats: readonly JudgedRepeat[] } | undefined;
  /** the last search, which the one after a correction goes on from */
  readonly search: { last?: Searched<Repeat> & { readonly key: string } };
}

interface JudgedRepeat extends Repeat {
  readonly confidence: number;
}

/** The same words said twice at once. */
interface Repeat extends Hit {
  /** first word of the second saying, and how many words each has */
  readonly again: number;
  readonly count: number;
  readonly same: boolean;
  /** no pause between the two that starts over */
  readonly flows: boolean;
  readonly evidence: Readonly<Record<string, number>>;
}

const MOST_WORDS = 6;
/** Longer than this between two sayings, and it is another try, or meant. */
const MOST_GAP: Seconds = 0.7;
/** Hesitations between the sayings. */
const MOST_BETWEEN = 2;
const LEAST_CONFIDENCE = 0.3;
/** Words before a verb within which the clause that it ends begins: "what it is is a pump". */
const CLAUSE_REACH = 4;

/** Said twice for weight, or as a sound. */
const MEANT = wordSet(
  'very really much many so too far long big little never always no yes yeah ha bye hey knock tick tock ding dong please again more now there ho round and-and well come look stop go slowly gently quite well hot cold old new deep ever',
);
const SMALL = wordSet(
  "i you he she it we they the a an and but or to of in on at for with by from as if is are was were my your his our their this when what how there so then i'm it's that's don't can will would could should did not be been have has about into",
);
/** Words that go with a verb before them, and lead on to what comes behind: "came in in March". */
const PARTICLES = wordSet('in on up off out over down through by along around back about');
/** Words that begin a clause which ends as the next begins: "what it does it does well". */
const WHOEVER = wordSet('what who whatever whoever whichever wherever');

/** Somebody who calls it out: "a boat, a boat, she called". */
const PEOPLE = wordSet('i you he she we they');

/** What speaks for or against a repeat. */
export const REPEAT_RULES = [
  'phraseTwice',
  'smallWord',
  'between',
  'pauseBetween',
  'forWeight',
  'grammar',
  'particle',
  'rolling',
  'whoever',
  'number',
  'describes',
  'sentences',
  'comma',
  'thing',
  'clauses',
  'anotherTry',
  'misheard',
  'thrice',
] as const;
export type RepeatRule = (typeof REPEAT_RULES)[number];

/** The same one to six words again at once; hesitations and short pauses between them allowed. */
export const repeats: Detector<PreparedRepeats> = {
  kind: 'repeat',
  reads: ['repeats', 'lexicon', 'repeatStays', 'minPause', 'airBefore', 'airAfter', 'fillerTreatment'],
  prepare: (material: Material, spoken) => ({
    spoken: spoken(),
    loudest: loudestIn(material),
    duration: material.duration,
    hesitation: material.hesitation,
    calibration: material.calibration ?? FITTED,
    found: undefined,
    search: {},
  }),
  reword: (prepared, spoken) => ({ ...prepared, spoken, found: undefined }),

  detect(prepared, settings): Proposal[] {
    if (settings.repeats === 'leave') return [];
    const { spoken, loudest, duration } = prepared;
    if (prepared.found?.key !== settings.lexicon) {
      const hesitations = hesitationsOf(spoken.language, settings.lexicon);
      prepared.found = {
        key: settings.lexicon,
        repeats: repeatsIn(prepared, hesitations, `${spoken.language} ${settings.lexicon}`)
          .map((repeat) => withConfidence(repeat, prepared))
          .filter(({ confidence }) => confidence >= LEAST_CONFIDENCE),
      };
    }
    return prepared.found.repeats.map(({ first, again, count, same, flows, confidence, evidence }) => {
      // Where the two differ, or a pause starts over, the later one is what was meant.
      const goes = same && flows && settings.repeatStays === 'first' ? again : first;
      const said = spoken.plain.slice(first, first + count).join(' ');
      return proposalOf('repeat', spoken, goes, count, { duration, loudest, settings }, { confidence, evidence, group: said });
    });
  },
};

/** Two sayings with what stands between them and before them, and as many words behind. */
const REACH = 3 * MOST_WORDS + MOST_BETWEEN + CLAUSE_REACH;

function repeatsIn({ spoken, search }: PreparedRepeats, hesitations: ReadonlySet<string>, key: string): Repeat[] {
  const { plain, words: said } = spoken;
  const hits = searchIncrementally(said, search.last?.key === key ? search.last : undefined, {
    reach: REACH,
    at: (k) => (plain[k] === '' || hesitations.has(plain[k] as string) ? undefined : repeatAt(spoken, k, hesitations)),
    moved: (hit, by) => ({ ...hit, first: hit.first + by, next: hit.next + by, again: hit.again + by }),
  });
  search.last = { key, words: said, hits };
  return hits;
}

/** What the words say, how sure the recogniser was of all of them, and how well their times are known. */
function withConfidence(repeat: Repeat, { spoken, hesitation, calibration }: PreparedRepeats): JudgedRepeat {
  const { first, again, count } = repeat;
  const whole = saidEvidence(spoken, first, again + count - first, hesitation);
  const second = saidEvidence(spoken, again, count, hesitation);
  const cleanScore = Math.round(100 * spoken.clean * (repeat.evidence.score ?? 0)) / 100;
  const evidence = { ...repeat.evidence, ...second, sure: whole.sure ?? 1, cleanScore };
  const judged = { ...repeat, evidence, confidence: probabilityOf(calibration.repeats, evidence) };
  return withGuessedTimes(withOthers(judged, spoken, first, again + count - first), spoken, first, again + count - first);
}

function repeatAt(spoken: Spoken, first: number, hesitations: ReadonlySet<string>): Repeat | undefined {
  const { plain } = spoken;
  for (let count = Math.min(MOST_WORDS, plain.length - first - 1); count >= 1; count--) {
    let again = first + count;
    let between = 0;
    while (between < MOST_BETWEEN && hesitations.has(plain[again] ?? '')) {
      again++;
      between++;
    }
    if (again + count > plain.length) continue;
    const same = likeness(spoken, first, again, count);
    if (same === 'no' || !isAtOnce(spoken, first, again, count) || isOverItself(spoken, first, again, count)) continue;
    return {
      first,
      // A third saying repeats the second.
      next: again,
      again,
      count,
      same: same === 'same',
      flows: !startsOver(spoken, first, again, count),
      ...judgeRepeat(spoken, first, again, count, between),
    };
  }
  return undefined;
}

function likeness({ plain, words: said }: Spoken, first: number, again: number, count: number): 'same' | 'near' | 'no' {
  let near = 0;
  for (let k = 0; k < count; k++) {
    const [a, b] = [plain[first + k] as string, plain[again + k] as string];
    if (a === b) continue;
    if (!isFalseStart(a, b, said[first + k] as Word) || ++near > 1) return 'no';
  }
  return near > 0 ? 'near' : 'same';
}

/** Whether a word was begun and broken off, then said whole: "spr spring", "pl- plate"; or nearly the same was written. */
const isFalseStart = (a: string, b: string, { text }: Word): boolean => {
  if (b.length <= a.length || !b.startsWith(a)) return false;
  if (BROKEN_OFF.test(text)) return true;
  return b.length - a.length >= 3 && (a.length >= 3 || trailsOff(text)) && !b.startsWith(`${a}'`);
};

/** As a word is written that stops in its middle. */
const BROKEN_OFF = /[-–—]$/;

/** Said by one speaker, without a longer pause inside or between. */
function isAtOnce({ words: said, plain }: Spoken, first: number, again: number, count: number): boolean {
  for (let k = first + 1; k < again + count; k++) {
    const [before, word] = [said[k - 1] as Word, said[k] as Word];
    if (word.speaker !== before.speaker || word.start - before.end > MOST_GAP || plain[k] === '') return false;
  }
  return true;
}

/** Whether both sayings stand over much the same sound: a recogniser that goes on where it was cut off writes some of it once more. */
function isOverItself({ words: said }: Spoken, first: number, again: number, count: number): boolean {
  const spanFrom = (at: number) => ({ start: (said[at] as Word).start, end: (said[at + count - 1] as Word).end });
  const [one, other] = [spanFrom(first), spanFrom(again)];
  return overlapOf(one, other) > 0 && shareHalf(one, other);
}

/** A pause of this length, and the words behind it start over. */
const RESTART: Seconds = 0.3;
const startsOver = ({ words: said }: Spoken, first: number, again: number, count: number): boolean =>
  (said[again] as Word).start - (said[first + count - 1] as Word).end >= RESTART;

function judgeRepeat(spoken: Spoken, first: number, again: number, count: number, between: number) {
  const { words: said, plain, partOf } = spoken;
  const word = plain[first] as string;
  const lastOfFirst = said[first + count - 1] as Word;
  const gap = (said[again] as Word).start - lastOfFirst.end;
  const evidence: Record<string, number> = {};
  const weigh = (id: RepeatRule, weight: number, when: boolean) => {
    if (when) evidence[id] = weight;
  };
  weigh('phraseTwice', 2.2, count >= 2);
  weigh('smallWord', 2, count === 1 && SMALL.has(word));
  weigh('between', 1.5, between > 0);
  weigh('pauseBetween', 0.6, gap >= 0.08);
  const soMuch = word === 'so' && ['adjective', 'adverb'].includes(partOf(plain[again + 1] ?? ''));
  weigh('forWeight', -4, count === 1 && (MEANT.has(word) || soMuch));
  weigh('grammar', -3, count === 1 && gap < 0.08 && isGrammar(spoken, first, again));
  weigh('particle', -2, count === 1 && PARTICLES.has(word) && partOf(plain[first - 1] ?? '') === 'verb');
  // "Over and over and over", "the sea, the sea, always the sea".
  const behind = again + count;
  const rolls = plain[behind] === word || plain.slice(behind, behind + count + 1).includes(plain[behind - 1] as string);
  weigh('rolling', -4, count >= 2 && rolls);
  weigh('whoever', -3, count >= 2 && WHOEVER.has(plain[first - 1] ?? ''));
  weigh('number', -3, count === 1 && (/\d/.test(word) || partOf(word) === 'number'));
  weigh('describes', -1.4, count === 1 && ['adjective', 'adverb'].includes(partOf(word)) && !SMALL.has(word));
  weigh('sentences', -3, !stopsUnfinished(lastOfFirst.text));
  const comma = /[,;–—]$/.test(lastOfFirst.text) || trailsOff(lastOfFirst.text);
  weigh('comma', count === 1 && SMALL.has(word) ? 0.2 : -0.8, comma);
  // A thing is seldom named twice for weight: "the wheels, the wheels, and".
  weigh('thing', 0.8, comma && count >= 2 && DETERMINERS.has(word) && !PEOPLE.has(plain[behind] ?? ''));
  weigh('clauses', -5, comma && count === 1 && endsClause(plain[first - 1] ?? '', word, partOf));
  weigh('anotherTry', -5, count >= 4 && startsOver(spoken, first, again, count));
  const misheard = Math.max(...[lastOfFirst, said[again] as Word].map((one) => likelyMisheard(one, spoken.clean)));
  weigh('misheard', -3.5 * misheard, count === 1 && misheard > 0);
  weigh('thrice', -2, count === 1 && !SMALL.has(word) && (plain[again + 1] === word || plain[first - 1] === word));
  const score = 0.6 + Object.values(evidence).reduce((total, weight) => total + weight, 0);
  return { evidence: { ...evidence, score: Math.round(100 * score) / 100 } };
}

/** Whether grammar may want a word twice where it stands: "that that wheel", "had had", "what it is is", "gave her her coat". */
function isGrammar({ plain, partOf }: Spoken, first: number, again: number): boolean {
  const next = plain[again + 1] ?? '';
  switch (plain[first]) {
    case 'had':
      return true;
    case 'do':
      return next !== 'not';
    case 'is':
      return plain.slice(Math.max(0, first - CLAUSE_REACH), first).some((word) => WHOEVER.has(word) || OPENS_CLAUSE.has(word));
    case 'that':
      return IS.has(next) || partOf(next) !== 'function';
    case 'her':
      return ['noun', 'adjective'].includes(partOf(next));
    default:
      return false;
  }
}
const OPENS_CLAUSE = wordSet('all where how why when that');
const IS = wordSet('is was has had will would');

/** Whether a pronoun before a comma belongs to the clause that ends there: "away from you, you plane that way". */
const endsClause = (before: string, word: string, partOf: PartOf): boolean =>
  !ARTICLES.has(word) &&
  !JOINING.has(word) &&
  (PREPOSITIONS.has(before) || COMPARING.has(before) || (partOf(before) === 'verb' && SMALL.has(word)));
const COMPARING = wordSet('like than');
/** Words that begin a clause, and end none. */
const JOINING = wordSet('i and but or if');

/** A word that the recogniser is less sure of may be another one. */
const SURE_WORD = 0.5;

/** 0..1: where the transcript is free of doubt, a word of an odd length was drawn out by whoever searched for the next one. */
const likelyMisheard = (word: Word, clean: number): number => {
  if (word.confidence < SURE_WORD) return 1;
  return fits(word) ? 0 : 1 - clean;
};

/** How much faster or slower than it is usually said a word can be said; past it something else was said. */
const fits = (word: Word): boolean => {
  const [length, usual] = [word.end - word.start, spokenWeight(word.text)];
  return length >= usual * 0.33 && length <= Math.max(usual * 2.6, usual + 0.28);
};
