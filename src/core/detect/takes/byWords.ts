import { LRUCache } from 'lru-cache';
import type { Seconds } from '../../time/range.ts';
import type { Remembered } from '../../transcript/memory.ts';
import { endsSentence, type Word } from '../../transcript/word.ts';
import type { PartOf } from '../words/partsOfSpeech.ts';
import { type Spoken, stopsShort } from '../words/spoken.ts';
import { isBegun } from './begun.ts';
import type { Link } from './link.ts';
import { type Prefix, StartAligner } from './prefix.ts';
import { wordsAsSaid } from './spelling.ts';

/** A phrase begins behind a pause of this length, or behind a sentence. */
const PHRASE_PAUSE: Seconds = 0.25;
/** Tries at one line lie no further apart. */
const FURTHEST: Seconds = 300;
/** An attempt is at most so many words: a paragraph. */
const LONGEST = 160;
/** Words of its beginning by which a phrase is looked up. */
const OPENING = 6;
/** More words between two tries than a remark has. */
const REMARK = 12;
const LEAST_MATCHES = 3;
const GLANCE = 12;

interface Phrase {
  /** place among the tokens */
  readonly token: number;
  readonly start: Seconds;
}

/** Tokens: words as they are said, without hesitations and without what has no letters, with their place in the transcript. */
interface Tokens {
  readonly plain: readonly string[];
  readonly word: readonly number[];
  /** a number for each different word, which compares faster than the word */
  readonly ids: Int32Array;
  /** more than any of them */
  readonly different: number;
}

/** Pairs of sayings that begin with the same words and go on with them. Near-linear: phrases are looked up by how they begin. */
export function linksByWords(spoken: Spoken, hesitations: ReadonlySet<string>): Link[] {
  const tokens = tokensOf(spoken, hesitations);
  return linksOf(spoken, tokens, phrasesOf(spoken, tokens));
}

function tokensOf(spoken: Spoken, hesitations: ReadonlySet<string>): Tokens {
  const [plain, word]: [string[], number[]] = [[], []];
  for (const [k, said] of wordsAsSaid(spoken).entries()) {
    if (hesitations.has(spoken.plain[k] as string)) continue;
    for (const one of said) {
      plain.push(one);
      word.push(k);
    }
  }
  const numbers = spoken.memory.of(NUMBERS);
  const ids = Int32Array.from(plain, (text) => {
    let id = numbers.get(text);
    if (id === undefined) {
      id = numbers.size;
      numbers.set(text, id);
    }
    return id;
  });
  return { plain, word, ids, different: numbers.size };
}

/** The same numbers for the same words, also after a correction. */
const NUMBERS: Remembered<Map<string, number>> = { begin: () => new Map() };

function phrasesOf({ words }: Spoken, { word }: Tokens): Phrase[] {
  const phrases: Phrase[] = [];
  // An end before a hesitation is one before the word behind it, too.
  let starts = true;
  let token = 0;
  for (const [k, here] of words.entries()) {
    const before = words[k - 1];
    if (before && (here.speaker !== before.speaker || endsSentence(before.text) || here.start - before.end >= PHRASE_PAUSE))
      starts = true;
    if (word[token] !== k) continue;
    if (starts) phrases.push({ token, start: here.start });
    starts = false;
    while (word[token] === k) token++;
  }
  return phrases;
}

function linksOf(spoken: Spoken, tokens: Tokens, phrases: readonly Phrase[]): Link[] {
  const byOpening = new Map<number, Phrase[]>();
  const links: Link[] = [];
  const restarts = restartsOf(tokens, phrases);
  for (const [k, phrase] of phrases.entries()) {
    const candidates = new Set<Phrase>();
    for (const key of openingsOf(tokens, phrase)) {
      const known = (byOpening.get(key) ?? []).filter(({ start }) => phrase.start - start <= FURTHEST);
      for (const earlier of known) candidates.add(earlier);
      known.push(phrase);
      byOpening.set(key, known);
    }
    for (const earlier of candidates) {
      const link = linkOf(spoken, tokens, phrases, earlier, phrase, k, restarts);
      if (link) links.push(link);
    }
  }
  return links;
}

/** For each phrase the next one soon after it that begins alike: a saying ends there, however much of the next it would match. */
function restartsOf(tokens: Tokens, phrases: readonly Phrase[]): Map<number, number> {
  const restarts = new Map<number, number>();
  const byOpening = new Map<number, Phrase[]>();
  for (const [k, phrase] of phrases.entries()) {
    const shared = new Map<Phrase, number>();
    // Of a short phrase its own words alone: those behind it begin another phrase.
    for (const key of openingsOf(tokens, phrase, phrases[k + 1]?.token)) {
      const known = (byOpening.get(key) ?? []).filter(({ start }) => phrase.start - start <= RESTART_WITHIN);
      for (const earlier of known) shared.set(earlier, (shared.get(earlier) ?? 0) + 1);
      known.push(phrase);
      byOpening.set(key, known);
    }
    for (const [earlier, count] of shared)
      if (count >= 2 && !restarts.has(earlier.token)) restarts.set(earlier.token, phrase.token);
  }
  return restarts;
}

const RESTART_WITHIN: Seconds = 60;

/** Pairs of words near the beginning, a number for each different pair: any one of the words may be misheard. */
function openingsOf({ ids, different }: Tokens, { token }: Phrase, end = ids.length): Set<number> {
  const keys = new Set<number>();
  const until = Math.min(end, ids.length, token + OPENING);
  for (let k = token; k + 1 < until; k++) {
    const first = (ids[k] as number) * different;
    keys.add(2 * (first + (ids[k + 1] as number)));
    if (k + 2 < until) keys.add(2 * (first + (ids[k + 2] as number)) + 1);
  }
  return keys;
}

function linkOf(
  spoken: Spoken,
  tokens: Tokens,
  phrases: readonly Phrase[],
  earlier: Phrase,
  later: Phrase,
  place: number,
  restarts: ReadonlyMap<number, number>,
): Link | undefined {
  const { words } = spoken;
  const until = Math.min(later.token, restarts.get(earlier.token) ?? later.token);
  const [a, b] = [earlier.token, later.token];
  const rightUntil = restarts.get(b) ?? tokens.plain.length;
  const wordAt = (token: number) => words[tokens.word[token] as number] as Word;
  if (wordAt(a).speaker !== wordAt(b).speaker) return undefined;
  // Most phrases that share a pair of words share nothing else: that shows soon.
  const first = (from: number, end: number, most: number) => tokens.ids.subarray(from, Math.min(end, from + most));
  const [near, nearToo] = [first(a, until, GLANCE), first(b, rightUntil, GLANCE)];
  const aligner = spoken.memory.of(ALIGNER);
  if (!sharesWords(near, nearToo) || aligner.align(near, nearToo).matches < LEAST_MATCHES) return undefined;
  const leftEndOf = (length: number) => phraseEnd(phrases, a + length - 1, tokens.plain.length) - a;
  const rightEndOf = (length: number) => phraseEnd(phrases, b + length - 1, tokens.plain.length, place) - b;
  const prefix = withoutStray(
    alignedBefore(first(a, until, LONGEST), first(b, rightUntil, LONGEST), aligner, spoken.memory.of(ALIGNMENTS)),
    leftEndOf,
    rightEndOf,
  );
  if (prefix.matches < LEAST_MATCHES) return undefined;
  const leftEnd = Math.min(until, a + leftEndOf(prefix.left));
  // A word that was only begun, after a wait, belongs to the saying that breaks off in it: "but … t-".
  const begun = leftEnd + 1 === until && isBegun(tokens.plain[leftEnd] as string, tokens.plain[b + prefix.right]) ? 1 : 0;
  const rightEnd = Math.min(rightUntil, b + rightEndOf(prefix.right));
  const [leftLength, rightLength] = [leftEnd - a, rightEnd - b];
  const between = until - leftEnd - begun;
  const gap = wordAt(b).start - wordAt(leftEnd + begun - 1).end;
  // A sign may stand where somebody stopped: what the next saying goes through wholly was begun again.
  const goneThrough =
    leftLength >= 5 && prefix.matches >= 0.8 * leftLength && between <= REMARK && gap < 10 && rightLength > leftLength;
  const leftBroken = begun > 0 || goneThrough || isBroken(spoken, tokens.word[leftEnd - 1] as number, prefix, leftLength, 'left');
  const rightBroken = isBroken(spoken, tokens.word[rightEnd - 1] as number, prefix, rightLength, 'right');
  // A saying that breaks off is a try when the other goes through it; two whole ones when they are alike as a whole.
  const share = leftBroken
    ? prefix.matches / leftLength
    : rightBroken
      ? prefix.matches / rightLength
      : (2 * prefix.matches) / (leftLength + rightLength);
  const length = leftBroken ? leftLength : rightBroken ? rightLength : Math.min(leftLength, rightLength);
  const broken = leftBroken || rightBroken;
  if (share < leastShare(length, broken)) return undefined;
  if (between > REMARK && (prefix.matches < 7 || share < 0.75)) return undefined;
  if (length < 5 && (gap > 20 || between > REMARK / 2 || !tellsSomething(tokens, a, prefix, spoken.partOf))) return undefined;
  return {
    left: { start: wordAt(a).start, end: wordAt(leftEnd + begun - 1).end },
    right: { start: wordAt(b).start, end: wordAt(rightEnd - 1).end },
    worth: prefix.matches - 0.5 * (leftLength + rightLength - 2 * prefix.matches),
    words: { matches: prefix.matches, share },
  };
}

/**
 * An alignment without a last word that stands in a phrase of its own on both sides, behind words that differ: any two remarks
 * have a "the" in common, and what is said after a line is no part of it.
 * @param leftEndOf how long the left saying is up to the end of the phrase that so many of its words reach; `rightEndOf` likewise
 */
function withoutStray(prefix: Prefix, leftEndOf: (length: number) => number, rightEndOf: (length: number) => number): Prefix {
  const [before, last] = [prefix.pairs.at(-2), prefix.pairs.at(-1)];
  if (!before || !last) return prefix;
  const [left, right] = [before[0] + 1, before[1] + 1];
  const follows = last[0] === left && last[1] === right;
  if (follows || last[0] < leftEndOf(left) || last[1] < rightEndOf(right)) return prefix;
  return { left, right, matches: prefix.matches - 1, pairs: prefix.pairs.slice(0, -1) };
}

const ALIGNER: Remembered<StartAligner> = { begin: () => new StartAligner() };
const ALIGNMENTS: Remembered<LRUCache<string, Prefix>> = { begin: () => new LRUCache({ max: 30_000 }) };

/**
 * How far two beginnings go together, looked up: a correction changes hardly any pair of phrases, and aligning all of them
 * again is most of what it takes to answer.
 */
function alignedBefore(left: Int32Array, right: Int32Array, aligner: StartAligner, alignments: LRUCache<string, Prefix>): Prefix {
  const key = `${left.join(' ')}/${right.join(' ')}`;
  let prefix = alignments.get(key);
  if (!prefix) {
    prefix = aligner.align(left, right);
    alignments.set(key, prefix);
  }
  return prefix;
}

/** Whether so many words are in both that an alignment could match enough of them. */
function sharesWords(left: Int32Array, right: Int32Array): boolean {
  let shared = 0;
  for (let k = 0; k < left.length && shared < LEAST_MATCHES; k++) if (right.includes(left[k] as number)) shared++;
  return shared >= LEAST_MATCHES;
}

/** Short sayings must agree nearly wholly; in long ones a fifth of the words of each may be misheard. */
const leastShare = (length: number, broken: boolean): number => {
  if (length < 5) return 0.8;
  if (length < 10) return broken ? 0.6 : 0.8;
  return length < 12 ? 0.6 : 0.5;
};

/** At least one word that is not mere grammar. */
const tellsSomething = ({ plain }: Tokens, from: number, { pairs }: Prefix, partOf: PartOf): boolean =>
  pairs.some(([k]) => !['function', 'other'].includes(partOf(plain[from + k] as string)));

/** The token behind the phrase that holds a token. */
function phraseEnd(phrases: readonly Phrase[], token: number, count: number, from = 0): number {
  for (let k = from; k < phrases.length; k++) if ((phrases[k] as Phrase).token > token) return (phrases[k] as Phrase).token;
  return count;
}

/** Whether a saying stops before its sentence is over: no sign ends it, or, without signs, the other goes on much further. */
function isBroken(spoken: Spoken, last: number, prefix: Prefix, length: number, side: 'left' | 'right'): boolean {
  if (spoken.punctuated) return stopsShort(spoken, last);
  const [own, other] = side === 'left' ? [prefix.left, prefix.right] : [prefix.right, prefix.left];
  return own === length && other < own;
}
