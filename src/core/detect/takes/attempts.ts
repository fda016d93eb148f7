import type { Range, Seconds } from '../../time/range.ts';
import { endsSentence, type Word } from '../../transcript/word.ts';
import { speechPartOf } from '../speechParts.ts';
import type { Spoken } from '../spoken.ts';
import { alignStarts, type Prefix } from './prefix.ts';

/** One saying of a line. */
export interface Attempt extends Range {
  /** words `[first, last)` of the transcript */
  readonly first: number;
  readonly last: number;
  /** ends in the middle of its sentence */
  readonly broken: boolean;
  /** 0..1 and what it is made of */
  readonly score: number;
  readonly parts: Readonly<Record<'complete' | 'fluent' | 'clear' | 'later', number>>;
}

/** Several sayings of one line, in order. */
export interface TakeGroup {
  readonly attempts: readonly Attempt[];
  /** the one that is suggested */
  readonly best: number;
  /** 0..1 that they are tries at the same line */
  readonly confidence: number;
  /** a number or a negation differs: perhaps not said again, but said otherwise on purpose */
  readonly meaningDiffers: boolean;
}

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

interface Phrase {
  /** place among the tokens */
  readonly token: number;
  readonly start: Seconds;
}

/** Tokens: words without hesitations and without what has no letters, with their place in the transcript. */
interface Tokens {
  readonly plain: readonly string[];
  readonly word: readonly number[];
}

/** Finds lines that are said more than once, with every saying. Near-linear: phrases are looked up by how they begin. */
export function findTakes(spoken: Spoken, hesitations: ReadonlySet<string>): TakeGroup[] {
  const tokens = tokensOf(spoken, hesitations);
  const phrases = phrasesOf(spoken, tokens);
  const links = linksOf(spoken, tokens, phrases);
  return groupsOf(spoken, tokens, links, hesitations);
}

function tokensOf({ plain }: Spoken, hesitations: ReadonlySet<string>): Tokens {
  const word = plain.flatMap((text, k) => (text === '' || hesitations.has(text) ? [] : [k]));
  return { plain: word.map((k) => plain[k] as string), word };
}

function phrasesOf({ words }: Spoken, { word }: Tokens): Phrase[] {
  return word.flatMap((index, token) => {
    const [here, before] = [words[index] as Word, words[index - 1]];
    const starts =
      !before || here.speaker !== before.speaker || endsSentence(before.text) || here.start - before.end >= PHRASE_PAUSE;
    return starts ? [{ token, start: here.start }] : [];
  });
}

/** Two sayings of one line. */
interface Link {
  readonly left: Range & { readonly from: number; readonly to: number };
  readonly right: Range & { readonly from: number; readonly to: number };
  readonly matches: number;
  readonly share: number;
  readonly broken: boolean;
}

function linksOf(spoken: Spoken, tokens: Tokens, phrases: readonly Phrase[]): Link[] {
  const byOpening = new Map<string, Phrase[]>();
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
  const byOpening = new Map<string, Phrase[]>();
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

/** Pairs of words near the beginning: any one of them may be misheard. */
function openingsOf({ plain }: Tokens, { token }: Phrase, end = plain.length): Set<string> {
  const keys = new Set<string>();
  const until = Math.min(end, plain.length, token + OPENING);
  for (let k = token; k + 1 < until; k++) {
    keys.add(`${plain[k]} ${plain[k + 1]}`);
    if (k + 2 < until) keys.add(`${plain[k]} . ${plain[k + 2]}`);
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
  const prefix = alignStarts(
    tokens.plain.slice(a, Math.min(until, a + LONGEST)),
    tokens.plain.slice(b, Math.min(rightUntil, b + LONGEST)),
  );
  if (prefix.matches < LEAST_MATCHES) return undefined;
  const leftEnd = Math.min(until, phraseEnd(phrases, a + prefix.left - 1, tokens.plain.length));
  const rightEnd = Math.min(rightUntil, phraseEnd(phrases, b + prefix.right - 1, tokens.plain.length, place));
  const [leftLength, rightLength] = [leftEnd - a, rightEnd - b];
  const between = until - leftEnd;
  const gap = wordAt(b).start - wordAt(leftEnd - 1).end;
  // A sign may stand where somebody stopped: what the next saying goes through wholly was begun again.
  const goneThrough =
    leftLength >= 5 && prefix.matches >= 0.8 * leftLength && between <= REMARK && gap < 10 && rightLength > leftLength;
  const leftBroken = goneThrough || isBroken(spoken, wordAt(leftEnd - 1), prefix, leftLength, 'left');
  const rightBroken = isBroken(spoken, wordAt(rightEnd - 1), prefix, rightLength, 'right');
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
  if (length < 5 && (gap > 20 || between > REMARK / 2 || !tellsSomething(tokens, a, prefix))) return undefined;
  return {
    left: { from: a, to: leftEnd, start: wordAt(a).start, end: wordAt(leftEnd - 1).end },
    right: { from: b, to: rightEnd, start: wordAt(b).start, end: wordAt(rightEnd - 1).end },
    matches: prefix.matches,
    share,
    broken,
  };
}

/** Short sayings must agree nearly wholly; in long ones a fifth of the words of each may be misheard. */
const leastShare = (length: number, broken: boolean): number => {
  if (length < 5) return 0.8;
  if (length < 10) return broken ? 0.6 : 0.8;
  return length < 12 ? 0.6 : 0.5;
};

/** At least one word that is not mere grammar. */
const tellsSomething = ({ plain }: Tokens, from: number, { pairs }: Prefix): boolean =>
  pairs.some(([k]) => !['function', 'other'].includes(speechPartOf(plain[from + k] as string)));

/** The token behind the phrase that holds a token. */
function phraseEnd(phrases: readonly Phrase[], token: number, count: number, from = 0): number {
  for (let k = from; k < phrases.length; k++) if ((phrases[k] as Phrase).token > token) return (phrases[k] as Phrase).token;
  return count;
}

/** Whether a saying stops before its sentence is over: no sign ends it, or, without signs, the other goes on much further. */
function isBroken({ punctuated }: Spoken, last: Word, prefix: Prefix, length: number, side: 'left' | 'right'): boolean {
  if (punctuated) return !endsSentence(last.text);
  const [own, other] = side === 'left' ? [prefix.left, prefix.right] : [prefix.right, prefix.left];
  return own === length && other < own;
}

/** Words shared, less those that are not. */
const worthOf = ({ left, right, matches }: Link): number =>
  matches - 0.5 * (left.to - left.from + (right.to - right.from) - 2 * matches);

const overlaps = (side: { readonly from: number; readonly to: number }, from: number, to: number): boolean =>
  side.from !== from && side.from < to && from < side.to;

/** Joins links into groups; what lies inside a longer saying is no group of its own. */
function groupsOf(spoken: Spoken, tokens: Tokens, links: readonly Link[], hesitations: ReadonlySet<string>): TakeGroup[] {
  const groups: { starts: Map<number, number>; matches: number; share: number }[] = [];
  for (const { left, right, matches, share } of [...links].sort((x, y) => worthOf(y) - worthOf(x) || x.left.from - y.left.from)) {
    const holds = (group: (typeof groups)[number], from: number) => group.starts.has(from);
    // What begins inside a saying that is known, or holds the beginning of one, is a part of it or reaches over it.
    const inside = groups.some(({ starts }) =>
      [...starts].some(([from, to]) => [left, right].some((side) => overlaps(side, from, to))),
    );
    if (inside) continue;
    const mine = groups.filter((group) => holds(group, left.from) || holds(group, right.from));
    const group = mine[0] ?? { starts: new Map<number, number>(), matches: 0, share: 0 };
    if (mine.length === 0) groups.push(group);
    for (const other of mine.slice(1)) {
      for (const [from, to] of other.starts) group.starts.set(from, Math.max(to, group.starts.get(from) ?? 0));
      groups.splice(groups.indexOf(other), 1);
    }
    for (const { from, to } of [left, right]) group.starts.set(from, Math.max(to, group.starts.get(from) ?? 0));
    group.matches = Math.max(group.matches, matches);
    group.share = Math.max(group.share, share);
  }
  return groups
    .map(({ starts, matches, share }) =>
      toGroup(
        spoken,
        tokens,
        [...starts].sort(([x], [y]) => x - y),
        matches,
        share,
        hesitations,
      ),
    )
    .sort((x, y) => (x.attempts[0]?.start ?? 0) - (y.attempts[0]?.start ?? 0));
}

function toGroup(
  spoken: Spoken,
  tokens: Tokens,
  starts: readonly (readonly [from: number, to: number])[],
  matches: number,
  share: number,
  hesitations: ReadonlySet<string>,
): TakeGroup {
  // A saying ends where the next begins, at the latest.
  const spans = starts.map(([from, to], k) => [from, Math.min(to, starts[k + 1]?.[0] ?? to)] as const);
  const most = Math.max(...spans.map(([from, to]) => to - from));
  const attempts = spans.map(([from, to], k): Attempt => {
    const [first, last] = [tokens.word[from] as number, (tokens.word[to - 1] as number) + 1];
    const words = spoken.words.slice(first, last);
    const end = words.at(-1) as Word;
    const broken = spoken.punctuated ? !endsSentence(end.text) : (to - from) / most < 0.75;
    const stumbles = spoken.plain
      .slice(first, last)
      .filter((word, n, all) => hesitations.has(word) || (n > 0 && word === all[n - 1])).length;
    const parts = {
      complete: Math.min(1, (to - from) / most) * (broken ? 0.5 : 1),
      fluent: Math.max(0, 1 - 0.35 * stumbles),
      clear: words.reduce((sum, { confidence }) => sum + confidence, 0) / words.length,
      later: spans.length > 1 ? k / (spans.length - 1) : 1,
    };
    const score = 0.5 * parts.complete + 0.27 * parts.fluent + 0.1 * parts.clear + 0.13 * parts.later;
    return { first, last, start: (words[0] as Word).start, end: end.end, broken, score: Math.round(score * 100) / 100, parts };
  });
  const best = attempts.reduce((chosen, attempt, k) => (attempt.score > (attempts[chosen] as Attempt).score ? k : chosen), 0);
  const meaningDiffers = attempts.some(
    (attempt, k) => k !== best && !attempt.broken && differs(spoken, attempt, attempts[best] as Attempt),
  );
  const sum = -1.2 + 0.35 * Math.min(10, matches) + 2.2 * (share - 0.5) - (meaningDiffers ? 2.5 : 0);
  return { attempts, best, confidence: Math.round(100 / (1 + Math.exp(-sum))) / 100, meaningDiffers };
}

const NEGATIONS = new Set(
  ["not never none nothing don't doesn't didn't isn't wasn't won't can't cannot without".split(' ')].flat(),
);
const ORDINALS = new Set('first second third fourth fifth two three four five six seven eight nine ten'.split(' '));

/** Whether numbers, or whether something is denied, differ between two sayings. */
function differs({ plain }: Spoken, a: Attempt, b: Attempt): boolean {
  const telling = ({ first, last }: Attempt) =>
    plain
      .slice(first, last)
      .filter((word) => NEGATIONS.has(word) || ORDINALS.has(word) || /\d/.test(word))
      .join(' ');
  return telling(a) !== telling(b);
}
