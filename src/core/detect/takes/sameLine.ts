import type { Echo } from '../../curves/repeatedPassages.ts';
import type { Range, Seconds } from '../../time/range.ts';
import type { Word } from '../../transcript/word.ts';
import { wordsIn } from '../../transcript/wordsIn.ts';
import type { Calibration } from '../calibration/calibration.ts';
import { type Evidence, isClean, type LogisticModel, logOdds, probabilityOf } from '../calibration/logistic.ts';
import type { PartOf } from '../words/partsOfSpeech.ts';
import type { Spoken } from '../words/spoken.ts';
import { hundredth } from '../words/wordEvidence.ts';
import { isBegun } from './begun.ts';
import { alignRows } from './columns.ts';
import { changesMeaning, isNumber } from './meaning.ts';
import { wordsAsSaid } from './spelling.ts';

/** Two sayings that may be tries at one line, the earlier first, in what they were said. */
export interface Pair {
  readonly left: Range;
  readonly right: Range;
  /** whether the left or the right one stops in the middle of its sentence */
  readonly leftBroken: boolean;
  readonly rightBroken: boolean;
  /** sound that follows the left one's last word at once and that no word covers */
  readonly unwritten: Seconds;
  readonly between: Between;
  /** whether both are in one recording, all of which the ear lays beside itself */
  readonly inOneRecording: boolean;
}

/** What stands between an attempt and the next one. */
export interface Between {
  readonly seconds: Seconds;
  /** of that, how much is no silence */
  readonly sounding: Seconds;
  /** words that are no hesitation, and whether a cue or an apology is among them */
  readonly words: number;
  readonly cue: boolean;
  /** more than a remark */
  readonly far: boolean;
}

/** What a pair is judged in. */
export interface Said {
  readonly spoken: Spoken;
  readonly hesitations: ReadonlySet<string>;
  /** stretches that sound alike; left out where nobody listened */
  readonly echoes: readonly Echo[] | undefined;
  readonly calibration: Calibration;
}

export interface Judgement {
  /** 0..1 that they are tries at one line */
  readonly probability: number;
  readonly evidence: Evidence;
  /** content that differs, as `nine / twelve` */
  readonly differs: readonly string[];
}

/** A word that the recogniser is less sure of may be another; one that it is surer of than this was said, however it sounds. */
const SURE_WORD = 0.6;
const CERTAIN_WORD = 0.8;
/** Two words that sound nearer to one another than this are one word, misheard once; further apart than this they are two. */
const SOUNDS_SAME = 0.34;
/** Sayings begin together when both begin this near to the two sides of an echo. */
const SNAP: Seconds = 0.5;
/** Less sound than this between two sayings is none. */
const SILENT_BETWEEN: Seconds = 0.1;
const MOST_MATCHES = 10;
const MOST_BETWEEN = 12;
const MOST_UNWRITTEN: Seconds = 0.8;

/** How likely it is that two sayings are tries at one line, with the evidence. */
export function judgePair(pair: Pair, said: Said): Judgement {
  const echo = echoOf(pair, said.echoes);
  const byEar = earEvidence(pair, echo, said.echoes !== undefined);
  const [left, right] = inOneSpelling(textOf(pair.left, said), textOf(pair.right, said));
  if (left.plain.length === 0 || right.plain.length === 0)
    return { probability: held(probabilityOf(said.calibration.takesBySound, byEar), byEar), evidence: byEar, differs: [] };
  const { evidence, differs } = textEvidence(pair, left, right, echo, said.spoken);
  // Of two sayings of the very same words the ear has nothing to add.
  const otherwise = 1 - (evidence.equal ?? 0);
  const { clean } = said.spoken;
  const named = {
    ...byEar,
    ...evidence,
    worstOther: otherwise * (byEar.worst ?? 0),
    unlikeOther: otherwise * (byEar.unlike ?? 0),
    alikeOther: otherwise * (byEar.shareBoth ?? 0),
    clean,
    equalClean: clean * (evidence.equalBeside ?? 0),
    brokenClean: clean * (evidence.brokenBeside ?? 0),
    changedClean: clean * (evidence.changed ?? 0),
  };
  const all = { ...named, ...earInDoubt(named, said.calibration.takesBySound) };
  const model = isClean(all) ? said.calibration.takesByWords : said.calibration.takesInDoubt;
  const probability = held(probabilityOf(model, all), all);
  return { probability: Math.min(probability, isDenied(pair, all) ? MOST_OF_DENIED : 1), evidence: all, differs };
}

/** Of 549 pairs of whole sayings in the same words, five and more, the ear hears 547 go together, 295 tries among them; the two others are none. */
const MOST_OF_DENIED = 0.5;
const LEAST_DENIED = 5;

/** Whether the ear hears nothing go together where the same is written twice: a recogniser that is lost writes a line once more. */
const isDenied = ({ inOneRecording }: Pair, { equal, broken, matches = 0, unlike }: Evidence): boolean =>
  inOneRecording && equal === 1 && broken === 0 && matches >= LEAST_DENIED && unlike === 1;

/** The ear speaks no more than so far, in natural logarithms of odds, for or against sayings with words. */
const MOST_OF_EAR = 4;

/**
 * What the ear adds where words are in doubt: how far it would take two sayings for tries without them.
 * @param evidence of a pair with words
 * @param bySound the model that tells of sayings without words
 */
export function earInDoubt(evidence: Evidence, bySound: LogisticModel): { readonly earInDoubt: number } {
  if (!evidence.heardAlike || isClean(evidence)) return { earInDoubt: 0 };
  const odds = Math.max(-MOST_OF_EAR, Math.min(MOST_OF_EAR, logOdds(bySound, evidence)));
  return { earInDoubt: hundredth(odds) };
}

/** Tries with more than a remark between them stay open, however alike they are: it may be a refrain. */
const MOST_OF_FAR = 0.9;
/** Of 652 pairs without doubt in whose words a number, a name or a negation differs, none were tries. */
const MOST_OF_OTHER_MEANING = 0.5;

function held(probability: number, evidence: Evidence): number {
  const isOther = isClean(evidence) && (evidence.meaning ?? 0) > 0;
  return Math.min(evidence.far ? MOST_OF_FAR : 1, isOther ? MOST_OF_OTHER_MEANING : 1, probability);
}

/** What a saying says, in the words in which it is said, each with the word that is written for it. */
interface Text {
  readonly words: readonly Word[];
  readonly plain: readonly string[];
}

/** The words of a saying without hesitations, as they are said. */
function textOf(range: Range, { spoken, hesitations }: Said): Text {
  const { words, plain } = spoken;
  const asSaid = wordsAsSaid(spoken);
  const [first, last] = wordsIn(words, range);
  const kept = Array.from({ length: last - first }, (_, k) => first + k).filter((k) => !hesitations.has(plain[k] as string));
  const each = kept.flatMap((k) => (asSaid[k] ?? []).map((one) => ({ word: words[k] as Word, one })));
  return { words: each.map(({ word }) => word), plain: each.map(({ one }) => one) };
}

/** Two sayings, in each of which two words are one that the other writes as one: "screw driver". */
const inOneSpelling = (left: Text, right: Text): readonly [Text, Text] => [
  joinedLike(left, right.plain),
  joinedLike(right, left.plain),
];

function joinedLike({ words, plain }: Text, other: readonly string[]): Text {
  const known = new Set(other);
  const [joinedWords, joined]: [Word[], string[]] = [[], []];
  for (let k = 0; k < plain.length; k++) {
    const both = `${plain[k]}${plain[k + 1] ?? ''}`;
    const isOne = k + 1 < plain.length && known.has(both) && !known.has(plain[k + 1] as string);
    joinedWords.push(words[k] as Word);
    joined.push(isOne ? both : (plain[k] as string));
    if (isOne) k++;
  }
  return { words: joinedWords, plain: joined };
}

/**
 * What the words say. Where a content word stands instead of another in two sayings that are both whole, the difference is
 * information, as in a list: it counts, unless the two sound the same or one of them is not sure.
 */
function textEvidence(pair: Pair, left: Text, right: Text, echo: Echo | undefined, { partOf, capitalsInside }: Spoken) {
  const tells = tellsBy(partOf);
  const columns = alignRows([left.plain, right.plain]);
  let [matches, contentMatches, changed, small, more, meaning, unsure, goesOn, begun] = [0, 0, 0, 0, 0, 0, 0, 0, 0];
  const differs: string[] = [];
  const both = columns.map(([a, b]) => (a as number) >= 0 && (b as number) >= 0);
  const lastBoth = both.lastIndexOf(true);
  // Of two that end together neither breaks off, whatever sign is missing there.
  const parts = lastBoth < columns.length - 1;
  const [leftBroken, rightBroken] = [parts && pair.leftBroken, parts && pair.rightBroken];
  const inColumn = (n: number): readonly string[] => {
    const [a, b] = columns[n] ?? [];
    return [left.plain[a ?? -1], right.plain[b ?? -1]].filter((word) => word !== undefined);
  };
  /** Whether one says a word of a number more: "twenty" and "twenty three". */
  const lengthensNumber = (n: number): boolean =>
    inColumn(n).length === 1 && inColumn(n).every(isNumber) && [n - 1, n + 1].some((near) => inColumn(near).some(isNumber));
  const onward = columns.slice(lastBoth + 1).flatMap(([, b]) => (b === undefined || b < 0 ? [] : [right.plain[b] ?? '']))[0];
  for (const [n, column] of columns.entries()) {
    const [a, b] = column as unknown as readonly [number, number];
    const [x, y] = [left.plain[a], right.plain[b]];
    if (x !== undefined && x === y) {
      matches++;
      if (tells(x)) contentMatches++;
      continue;
    }
    // What the other goes on with behind a break is no difference, nor is a word that was only begun.
    if (n > lastBoth && (x === undefined ? leftBroken : rightBroken || (leftBroken && isBegun(x, onward)))) {
      if (x === undefined) goesOn++;
      else if (isBegun(x, onward)) begun++;
      continue;
    }
    const sure = Math.min(left.words[a]?.confidence ?? 1, right.words[b]?.confidence ?? 1);
    const doubted = sure < SURE_WORD;
    const altered =
      lengthensNumber(n) ||
      changesMeaning(
        { plain: x ?? '', written: left.words[a]?.text, hasAnyCapital: a === 0 || capitalsInside },
        { plain: y ?? '', written: right.words[b]?.text, hasAnyCapital: b === 0 || capitalsInside },
      );
    if (sure < CERTAIN_WORD && x !== undefined && y !== undefined && soundTheSame(left.words[a], echo)) continue;
    if (doubted) unsure++;
    else if (altered) meaning++;
    else if (x !== undefined && y !== undefined && tells(x) && tells(y)) {
      if (isFormOf(x, y)) small++;
      else changed++;
    } else if (n > lastBoth && x !== undefined && onward !== undefined && tells(x) && tells(onward) && !isFormOf(x, onward)) {
      changed++;
      differs.push(`${x} / ${onward}`);
    } else if ((x !== undefined && tells(x)) || (y !== undefined && tells(y))) more++;
    else small++;
    if (!doubted && (altered || (x !== undefined && y !== undefined && tells(x) && tells(y) && !isFormOf(x, y))))
      differs.push(`${x ?? 'nothing'} / ${y ?? 'nothing'}`);
  }
  const [l, r] = [left.plain.length, right.plain.length];
  const length = leftBroken ? Math.min(l, r) : rightBroken ? r : Math.max(l, r);
  const share = Math.min(1, matches / Math.max(1, length - begun));
  const broken = leftBroken || rightBroken ? 1 : 0;
  const equal = share >= 0.999 && changed + meaning + more + unsure === 0 ? 1 : 0;
  const beside = pair.between.words === 0 || pair.between.cue ? 1 : 0;
  const onwards = leftBroken ? Math.min(4, goesOn) : 0;
  const evidence: Record<string, number> = {
    matches: Math.min(MOST_MATCHES, matches),
    contentMatches: Math.min(MOST_MATCHES, contentMatches),
    share: Math.round(1000 * share) / 1000,
    changed: Math.min(3, changed),
    meaning: Math.min(3, meaning),
    more: Math.min(4, more),
    small: Math.min(4, small),
    unsure: Math.min(4, unsure),
    broken,
    goesOn: onwards,
    // Said short, as a refrain may be.
    brokenAlone: onwards === 0 ? broken : 0,
    // Perhaps it does not break off: its last word was left out.
    unwritten: leftBroken ? hundredth(Math.min(MOST_UNWRITTEN, pair.unwritten)) : 0,
    equal,
    equalBeside: equal * beside,
    brokenBeside: broken * beside,
    wordsBetween: pair.between.cue ? 0 : Math.min(MOST_BETWEEN, pair.between.words),
    beside,
    shortLine: matches < 4 ? 1 : 0,
  };
  return { evidence, differs };
}

/** Whether a word says what the sentence is about. */
const tellsBy =
  (partOf: PartOf) =>
  (word: string): boolean =>
    !['function', 'other'].includes(partOf(word));

/** Forms of one word: `fold` and `folds`. */
function isFormOf(a: string, b: string): boolean {
  const [short, long] = a.length <= b.length ? [a, b] : [b, a];
  return short.length >= 3 && long.startsWith(short) && long.length - short.length <= 2;
}

function soundTheSame(word: Word | undefined, echo: Echo | undefined): boolean {
  if (!word || !echo) return false;
  const steps = echo.path.filter(({ left }) => left >= word.start - 0.06 && left <= word.end + 0.06);
  return steps.length > 0 && steps.every(({ apart }) => apart <= SOUNDS_SAME);
}

/** What the ear says: nothing where nobody listened. */
function earEvidence({ left, right, between }: Pair, echo: Echo | undefined, listened: boolean): Record<string, number> {
  const evidence: Record<string, number> = {
    listened: listened ? 1 : 0,
    gap: hundredth(Math.log1p(Math.max(0, between.seconds))),
    soundBetween: Math.min(6, hundredth(between.sounding)),
    cue: between.cue ? 1 : 0,
    far: between.far ? 1 : 0,
  };
  if (!listened) return evidence;
  if (!echo) return { ...evidence, unlike: 1 };
  const [l, r] = [left.end - left.start, right.end - right.start];
  const [shareLeft, shareRight] = [Math.min(1, echo.matched / l), Math.min(1, echo.matched / r)];
  const shareBoth = hundredth(Math.min(shareLeft, shareRight));
  const worst = hundredth(echo.worst);
  const beside = between.sounding < SILENT_BETWEEN ? 1 : 0;
  // Gone through to its end and then gone on from: begun, broken off, and begun again.
  const goneThrough = shareLeft >= 0.75 && shareRight <= 0.8 ? 1 : 0;
  const wholeBeside = Math.min(shareLeft, shareRight) >= 0.75 ? beside : 0;
  return {
    ...evidence,
    heardAlike: 1,
    matched: Math.min(4, echo.matched),
    shareLeft: hundredth(shareLeft),
    shareBoth,
    closeness: hundredth(echo.closeness),
    worst,
    goneThrough,
    goneBeside: goneThrough * beside,
    wholeBeside,
    // Whole, and a little more behind it: neither broken off nor the same.
    wholeGone: wholeBeside * goneThrough,
    worstWhole: goneThrough ? 0 : worst,
    // A word that is another one tells most between two whole sayings, and less the more is said between them; so does a gap.
    worstBeside: wholeBeside * worst,
    worstApart: hundredth((evidence.soundBetween ?? 0) * worst),
    gapAlike: hundredth((evidence.gap ?? 0) * shareBoth),
  };
}

/** The echo between two sayings: one that begins with both, or goes through both their beginnings. */
function echoOf({ left, right }: Pair, echoes: readonly Echo[] | undefined): Echo | undefined {
  let best: Echo | undefined;
  for (const echo of echoes ?? []) {
    if (echo.left.start > left.start + SNAP || echo.left.end < left.start || echo.right.end < right.start) continue;
    if (echo.right.start > right.start + SNAP) continue;
    const begins = echo.path.some(
      (step) => Math.abs(step.left - left.start) <= SNAP && Math.abs(step.right - right.start) <= SNAP,
    );
    if (begins && (!best || echo.matched > best.matched)) best = echo;
  }
  return best;
}
