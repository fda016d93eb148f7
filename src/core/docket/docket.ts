import type { DecidedProposal } from '../decisions/matching.ts';
import { KINDS, type KindFamily, type ProposalKind } from '../detect/kinds.ts';
import { certaintyOf, type Settings } from '../detect/settings.ts';
import { correctionFrom } from '../lessons/correction.ts';
import { classesOf, type Lesson } from '../lessons/lesson.ts';
import { HEAR_MARGIN, piecesAcross } from '../programme/across.ts';
import type { Programme } from '../programme/programme.ts';
import type { SeamDoubt } from '../programme/risk.ts';
import type { Range, Seconds } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';
import { wordsIn } from '../transcript/wordsIn.ts';
import type { AirOffer } from './airOffer.ts';
import { judgedExamples, lessonsOf } from './examples.ts';
import { DOUBT_COMES_TRUE } from './fitted.ts';
import { costOf } from './harm.ts';
import { wasHeard } from './heard.ts';
import { weightedSample } from './sample.ts';

/**
 * Why something is on the list: nothing was decided about it; it went by itself and is one of those that are checked, or is less sure by
 * what was said of others, or its join is likely to be heard.
 */
export type DocketReason = 'open' | 'sample' | 'doubt' | 'join';

/** One thing to hear and to decide. */
export interface DocketEntry extends Range {
  readonly id: string;
  readonly kind: ProposalKind;
  readonly found: Range;
  readonly why: DocketReason;
  /** what may be wrong with its seam */
  readonly doubt: SeamDoubt | undefined;
  /** what is said if nobody objects */
  readonly proposed: 'out' | 'stay';
  /** how likely it is that it should go */
  readonly probability: number;
  /** expected harm, in clipped words, that hearing it removes */
  readonly harm: number;
  /** seconds of sound it takes to hear it, at plain speed */
  readonly seconds: Seconds;
  /** its most special class; see `classesOf` */
  readonly about: string;
  /** entry of the lexicon, words that are repeated, or group of takes */
  readonly group: string | undefined;
  /** the least sure word that it hangs on */
  readonly word: Pick<Word, 'text' | 'start' | 'end' | 'confidence'> | undefined;
}

/** Entries that one decision can settle, best first. */
export interface DocketGroup {
  /** the same while the list changes */
  readonly key: string;
  /** the most special class that all of them belong to; see `classesOf` */
  readonly about: string;
  readonly entries: readonly DocketEntry[];
}

/** What may be wrong with all that was neither heard nor decided. */
export interface Outlook {
  /** cuts that are expected to be wrong */
  readonly wrongCuts: number;
  /** things expected to stay that should go, by what they are */
  readonly pausesIn: number;
  readonly fillersIn: number;
  readonly linesIn: number;
  /** all of it, weighed, in clipped words */
  readonly harm: number;
  /** under this, listening need not go on */
  readonly limit: number;
  /** those to be checked that were not heard yet */
  readonly sampleLeft: number;
  readonly canStop: boolean;
}

export interface Docket {
  readonly groups: readonly DocketGroup[];
  /** how many entries there are, and how long all of them take at plain speed */
  readonly entries: number;
  readonly seconds: Seconds;
  readonly outlook: Outlook;
  /** proposals that go without being asked about */
  readonly sure: readonly Pick<DecidedProposal, 'kind' | 'found'>[];
  /** how many of those that were judged so far were right */
  readonly judged: { readonly right: number; readonly wrong: number };
  /** what is said of this recording so far, as it will be taught to the next ones */
  readonly lessons: readonly Lesson[];
  readonly airOffers: readonly AirOffer[];
}

/** How the two sides of a cut may be wrong, as far as it is measured. */
export interface Seam {
  /** 0..1 that the join is heard */
  readonly harsh: number;
  /** probability that an edge clips a word, beside what the proposal itself may be wrong about */
  readonly clips: number;
  readonly doubt: SeamDoubt;
}

interface Asked {
  readonly proposals: readonly DecidedProposal[];
  readonly programme: Programme;
  readonly settings: Settings;
  /** what was listened to, in order and disjoint */
  readonly heard: readonly Range[];
  readonly words: readonly Word[];
  /** how a seam may be wrong; undefined where that is not known */
  readonly seamOf: (proposal: DecidedProposal) => Seam | undefined;
  /** seconds that were recorded */
  readonly recorded: Seconds;
  /** how much of the doubt that is told of what goes by itself comes true; as it was fitted when left out */
  readonly doubtComesTrue?: Readonly<Partial<Record<KindFamily, number>>>;
}

/** A join this likely to be heard is listened to. */
const HARSH = 0.8;
/** A word less sure than this is named where a decision hangs on it. */
const UNSURE = 0.6;
/** Seconds of a line that are listened to, at most, to tell whether it should go. */
const MOST_OF_A_LINE: Seconds = 3;
const TEN_MINUTES: Seconds = 600;

/** The list of what to hear, ordered by expected harm removed per second heard, and what may be wrong with the rest. */
export function docketOf(asked: Asked): Omit<Docket, 'airOffers'> {
  const { proposals, programme, settings, heard, recorded, doubtComesTrue = DOUBT_COMES_TRUE } = asked;
  const heardOnes = new Set(proposals.filter((proposal) => wasHeard(programme, heard, proposal)));
  const examples = judgedExamples(proposals, heardOnes);
  const lessons = lessonsOf(examples);
  const correct = correctionFrom(lessons);
  const certainty = certaintyOf(settings);
  const visible = standingAlone(proposals, certainty);
  const looked = visible.map((proposal): Looked => {
    const classes = classesOf(proposal);
    const probability = correct(classes, proposal.confidence);
    const seam = proposal.verdict === 'out' && proposal.treatment !== 'hurry' ? asked.seamOf(proposal) : undefined;
    // Of what went by itself less comes true than is told.
    const shareTrue = goesByItself(proposal, certainty) ? Math.min(1, doubtComesTrue[KINDS[proposal.kind]] ?? 1) : 1;
    const wrong = proposal.verdict === 'out' ? shareTrue * (1 - probability * (1 - (seam?.clips ?? 0))) : probability;
    const isHeard = heardOnes.has(proposal);
    return {
      proposal,
      about: classes.at(-1) ?? proposal.kind,
      probability,
      seam,
      wrong,
      isKnown: isHeard || isJudged(proposal),
      isSettled: isHeard || isDecided(proposal),
    };
  });
  const sure = looked.filter(({ proposal }) => goesByItself(proposal, certainty));
  const sample = weightedSample(
    // As told before anything was said of this recording, so that the same ones stay chosen.
    sure.map(({ proposal: { id, confidence } }) => ({ id, weight: 1 - confidence })),
    sampleSize(settings, recorded),
  );
  const left = looked.filter(({ isSettled }) => !isSettled);
  const standsFor = Math.max(1, sure.length / Math.max(1, sample.size));
  const entries = left.flatMap((one) => {
    const why = reasonFor(one, sample, certainty);
    return why ? [entryOf(one, why, why === 'sample' ? standsFor : 1, asked)] : [];
  });
  const sampleLeft = entries.filter(({ why }) => why === 'sample').length;
  const unknown = looked.filter(({ isKnown }) => !isKnown);
  const outlook = outlookOf(unknown, settings, recorded, sampleLeft);
  const groups = inGroups(entries, outlook.harm <= outlook.limit);
  const right = examples.filter((example) => example.right).length;
  return {
    groups,
    entries: entries.length,
    seconds: entries.reduce((sum, { seconds }) => sum + seconds, 0),
    outlook,
    sure: left.flatMap(({ proposal: { kind, found, verdict }, probability }) =>
      verdict === 'out' && probability >= certainty ? [{ kind, found }] : [],
    ),
    judged: { right, wrong: examples.length - right },
    lessons,
  };
}

/** A short recording has fewer to check: one at least. */
const sampleSize = ({ sampleOf }: Settings, recorded: Seconds): number =>
  Math.ceil(sampleOf * Math.min(1, recorded / TEN_MINUTES));

interface Looked {
  readonly proposal: DecidedProposal;
  readonly about: string;
  /** that it should go, by all that is known */
  readonly probability: number;
  readonly seam: Seam | undefined;
  /** how likely it is to be wrong as it stands */
  readonly wrong: number;
  /** it was heard, or decided by itself */
  readonly isKnown: boolean;
  /** nobody needs to be asked about it any more */
  readonly isSettled: boolean;
}

const isDecided = ({ decided, verdict }: DecidedProposal): boolean => decided && verdict !== 'open';
/** What was decided with many others, none of them heard, may still be wrong. */
const isJudged = (proposal: DecidedProposal): boolean => isDecided(proposal) && !proposal.unheard;

/** What went without anybody being asked, whatever was said of it since. */
const goesByItself = ({ confidence, kind }: DecidedProposal, certainty: number): boolean =>
  kind !== 'hand' && confidence >= certainty;

/** Proposals that are no part of something that goes anyway, and that were not made by hand. */
export function standingAlone(proposals: readonly DecidedProposal[], certainty: number): DecidedProposal[] {
  const kept: DecidedProposal[] = [];
  const gone = proposals.filter(({ verdict, treatment }) => verdict === 'out' && treatment === 'remove');
  let next = 0;
  let longest: Range = { start: 0, end: 0 };
  for (const proposal of proposals) {
    while (next < gone.length && (gone[next] as Range).start <= proposal.start) {
      const one = gone[next++] as DecidedProposal;
      // Of two alike the one before stands for both.
      if (one !== proposal && one.end > longest.end) longest = one;
    }
    // What is not sure enough by itself, and goes, goes with something else.
    const goesAlong = proposal.verdict === 'out' && !proposal.decided && proposal.confidence < certainty;
    if (proposal.kind !== 'hand' && !goesAlong && !(proposal.end <= longest.end)) kept.push(proposal);
    if (proposal.verdict === 'out' && proposal.treatment === 'remove' && proposal.end > longest.end) longest = proposal;
  }
  return kept;
}

function reasonFor(
  { proposal, probability, seam }: Looked,
  sample: ReadonlySet<string>,
  certainty: number,
): DocketReason | undefined {
  if (proposal.verdict === 'open') return 'open';
  if (proposal.verdict !== 'out') return undefined;
  if (sample.has(proposal.id)) return 'sample';
  if (probability < certainty) return 'doubt';
  return isHarsh(seam) ? 'join' : undefined;
}

/** Most joins differ a little, and nobody hears it. */
const isHarsh = (seam: Seam | undefined): seam is Seam => seam !== undefined && seam.harsh >= HARSH;
const joinHarm = (seam: Seam | undefined, { costJoin }: Settings): number => (isHarsh(seam) ? seam.harsh * costJoin : 0);

function entryOf(
  { proposal, about, probability, seam, wrong }: Looked,
  why: DocketReason,
  standsFor: number,
  asked: Asked,
): DocketEntry {
  const { settings, programme } = asked;
  const { id, kind, start, end, found, verdict, group } = proposal;
  const cost = costOf(kind);
  const isOut = verdict === 'out';
  const proposed = isOut || probability >= 0.5 ? 'out' : 'stay';
  const harm = isOut ? wrong * cost.gone(settings) * standsFor + joinHarm(seam, settings) : wrong * cost.left(settings);
  const played = piecesAcross(programme, proposal, proposed === 'out' ? 'cut' : 'with', HEAR_MARGIN);
  const isLine = KINDS[kind] === 'takes' || KINDS[kind] === 'asides';
  const alsoWith = isLine && proposed === 'out' ? Math.min(MOST_OF_A_LINE, end - start) : 0;
  const seconds = played.reduce((sum, piece) => sum + (piece.end - piece.start) / piece.rate, 0) + alsoWith;
  return {
    id,
    kind,
    start,
    end,
    found,
    why,
    doubt: seam?.doubt,
    proposed,
    probability,
    harm,
    seconds,
    about,
    group,
    word: unsureWordIn(asked.words, proposal),
  };
}

/** Words decide about fillers, repeats and lines, and not about silence. */
function unsureWordIn(words: readonly Word[], { kind, found }: DecidedProposal): DocketEntry['word'] {
  if (kind === 'pause') return undefined;
  const [first, last] = wordsIn(words, found);
  let least: Word | undefined;
  for (let k = first; k < last; k++) {
    const word = words[k] as Word;
    if (word.confidence < UNSURE && word.confidence < (least?.confidence ?? 1)) least = word;
  }
  return least && { text: least.text, start: least.start, end: least.end, confidence: least.confidence };
}

/**
 * Entries that belong together, groups by what they remove a second.
 * @param isEnough listening could stop but for those that are to be checked: they come first
 */
function inGroups(entries: readonly DocketEntry[], isEnough: boolean): DocketGroup[] {
  const groups = new Map<string, DocketEntry[]>();
  for (const entry of entries) {
    // Tries at one line stand together, and two lines do not.
    const key = [entry.about, entry.kind === 'retake' ? entry.group : '', entry.proposed, entry.why].join(' ');
    const group = groups.get(key) ?? [];
    groups.set(key, group);
    group.push(entry);
  }
  const rate = ({ entries: all }: { entries: readonly DocketEntry[] }) =>
    all.reduce((sum, { harm }) => sum + harm, 0) / all.reduce((sum, { seconds }) => sum + seconds, 1e-9);
  const isNext = ({ entries: all }: { entries: readonly DocketEntry[] }) => (isEnough && all[0]?.why === 'sample' ? 1 : 0);
  return [...groups]
    .map(([key, all]) => ({
      key,
      about: (all[0] as DocketEntry).about,
      entries: all.sort((a, b) => b.harm / b.seconds - a.harm / a.seconds || a.start - b.start),
    }))
    .sort(
      (a, b) =>
        isNext(b) - isNext(a) || rate(b) - rate(a) || (a.entries[0] as DocketEntry).start - (b.entries[0] as DocketEntry).start,
    );
}

function outlookOf(unheard: readonly Looked[], settings: Settings, recorded: Seconds, sampleLeft: number): Outlook {
  const sums = { wrongCuts: 0, pausesIn: 0, fillersIn: 0, linesIn: 0, harm: 0 };
  for (const { proposal, wrong, seam } of unheard) {
    const cost = costOf(proposal.kind);
    const isOut = proposal.verdict === 'out';
    sums.harm += wrong * (isOut ? cost.gone(settings) : cost.left(settings)) + joinHarm(seam, settings);
    if (isOut) sums.wrongCuts += wrong;
    else sums[LEFT_IN[KINDS[proposal.kind]]] += wrong;
  }
  const limit = settings.stopUnder * Math.max(1, recorded / TEN_MINUTES);
  return { ...sums, limit, sampleLeft, canStop: sums.harm <= limit && sampleLeft === 0 };
}

const LEFT_IN = { sound: 'pausesIn', words: 'fillersIn', takes: 'linesIn', asides: 'linesIn', hand: 'linesIn' } as const;

/** A docket as it crosses over to the page: with the first of its list, and a number for the sure ones. */
export type SentDocket = Omit<Docket, 'sure'> & { readonly sure: number };

export function sentDocket(docket: Docket, count: number): SentDocket {
  let room = count;
  const groups = docket.groups.flatMap((group) => {
    const entries = group.entries.slice(0, Math.max(0, room));
    room -= entries.length;
    return entries.length === 0 ? [] : [entries.length === group.entries.length ? group : { ...group, entries }];
  });
  return { ...docket, groups, sure: docket.sure.length };
}
