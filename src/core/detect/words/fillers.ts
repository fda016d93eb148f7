import { LRUCache } from 'lru-cache';
import type { HesitationCurve } from '../../curves/hesitation.ts';
import { type Hit, type Search, type Searched, searchIncrementally } from '../../transcript/incrementalSearch.ts';
import type { Remembered } from '../../transcript/memory.ts';
import type { Word } from '../../transcript/word.ts';
import type { Calibration } from '../calibration/calibration.ts';
import { FITTED } from '../calibration/fitted.ts';
import { probabilityOf } from '../calibration/logistic.ts';
import { type Detector, type Material, type Proposal, proposalId } from '../detector.ts';
import type { Settings } from '../settings.ts';
import { sparing } from './fillerQuota.ts';
import { contextOf, judge } from './fillerRules.ts';
import { joinAround, type Loudest, loudestIn, sureOfOthers } from './joining.ts';
import { lexiconOf, phrasesOf } from './lexicon.ts';
import type { LexiconEntry, Strength } from './lexiconEntry.ts';
import { type Spoken, spokenForm } from './spoken.ts';
import { hundredth, saidEvidence, withGuessedTimes, withOthers } from './wordEvidence.ts';

export interface PreparedFillers {
  readonly spoken: Spoken;
  readonly loudest: Loudest;
  readonly duration: number;
  readonly hesitation: readonly HesitationCurve[] | undefined;
  readonly calibration: Calibration;
  /** the last answers by lexicon: sliders that move nothing here ask for the same again and again */
  readonly judged: LRUCache<string, readonly Found[]>;
  /** the last search, which the one after a correction goes on from */
  readonly search: { last?: Searched<Place> & { readonly kind: string } };
}

/** Where words of an entry are said, and what their surroundings say. */
interface Place extends Hit {
  readonly count: number;
  readonly phrase: string;
  readonly strength: Strength;
  readonly evidence: Readonly<Record<string, number>>;
}

/** The same with how sure it is that they are a filler here. */
export interface Found extends Place {
  readonly confidence: number;
  readonly evidence: Readonly<Record<string, number>>;
}

/** Under this it is a word that is meant, and nobody needs to be asked. */
const LEAST_CONFIDENCE = 0.3;
/** Only somebody who asked for it wants it, and then every time, with an ear on it. */
const ASKED = 0.5;
const KEPT_ANSWERS = 4;

/** An entry by its words. */
interface Entry {
  readonly parts: readonly string[];
  /** the same with their accents, where it has any: `äh` is a hesitation, and `ah` none */
  readonly accented: readonly string[] | undefined;
  readonly entry: LexiconEntry;
}

/** Fillers by a lexicon: hesitations at once, words that may also be meant by what stands round them. */
export const fillers: Detector<PreparedFillers> = {
  kind: 'filler',
  reads: ['fillers', 'lexicon', 'asked', 'spare', 'spareEvery', 'minPause', 'airBefore', 'airAfter', 'fillerTreatment'],
  prepare: (material: Material, spoken) => ({
    spoken: spoken(),
    loudest: loudestIn(material),
    duration: material.duration,
    hesitation: material.hesitation,
    calibration: material.calibration ?? FITTED,
    judged: new LRUCache<string, readonly Found[]>({ max: KEPT_ANSWERS }),
    search: {},
  }),
  reword: (prepared, spoken) => ({ ...prepared, spoken, judged: new LRUCache<string, readonly Found[]>({ max: KEPT_ANSWERS }) }),

  detect(prepared, settings): Proposal[] {
    if (settings.fillers === 'leave') return [];
    const { spoken, loudest, duration } = prepared;
    const found = judgedFillers(prepared, settings).filter(({ confidence }) => confidence >= LEAST_CONFIDENCE);
    return sparing(found, spoken, settings).map(({ first, count, phrase, confidence, evidence }) =>
      proposalOf('filler', spoken, first, count, { duration, loudest, settings }, { confidence, evidence, group: phrase }),
    );
  },
};

/** Every place where words of the lexicon are said, meant or not, in order. */
export function judgedFillers(prepared: PreparedFillers, settings: Settings): readonly Found[] {
  const { spoken, judged, search } = prepared;
  const key = `${settings.lexicon} ${settings.asked}`;
  const known = judged.get(key);
  if (known) return known;
  const wanted = searchFor(spoken, lexiconOf(spoken.language, settings.lexicon), settings.asked === 'propose');
  const kind = `${key} ${spoken.language} ${spoken.capitals} ${spoken.punctuated}`;
  const before = search.last?.kind === kind ? search.last : undefined;
  const places = searchIncrementally(spoken.words, before, wanted);
  search.last = { kind, words: spoken.words, hits: places };
  const found = places.map((place) => withConfidence(place, prepared));
  judged.set(key, found);
  return found;
}

/** Words on either side that a judgement looks at, and some more. */
const CONTEXT_WORDS = 8;

function searchFor(spoken: Spoken, lexicon: readonly LexiconEntry[], asked: boolean): Search<Place> {
  const byFirst = new Map<string, Entry[]>();
  for (const entry of lexicon) {
    if (entry.strength === 'off' || entry.strength === 'cue' || (entry.strength === 'asked' && !asked)) continue;
    const words = entry.phrase.split(' ');
    const parts = words.map(spokenForm);
    const accented = entry.phrase === entry.phrase.normalize('NFKD') ? undefined : words.map(withAccents);
    const first = parts[0] as string;
    byFirst.set(
      first,
      [...(byFirst.get(first) ?? []), { parts, accented, entry }].sort((a, b) => b.parts.length - a.parts.length),
    );
  }
  const hesitations = new Set(phrasesOf(lexicon, 'always'));
  const longest = Math.max(1, ...[...byFirst.values()].flat().map(({ parts }) => parts.length));
  return {
    reach: longest + CONTEXT_WORDS,
    moved: (found, by) => ({ ...found, first: found.first + by, next: found.next + by }),
    at(k): Place | undefined {
      const hit =
        byFirst.get(spoken.plain[k] as string)?.find((entry) => isSaid(spoken, k, entry)) ?? swallowed(spoken, k, byFirst);
      if (!hit) return undefined;
      const { phrase, strength } = hit.entry;
      const count = hit.parts.length;
      const place = { first: k, next: k + count, count, phrase, strength };
      if (strength === 'always') return { ...place, evidence: { hesitation: 1 } };
      if (strength === 'asked') return { ...place, evidence: { askedFor: 1 } };
      const { score, evidence } = judge(phrase, contextOf(spoken, k, count, hesitations));
      return {
        ...place,
        evidence: { ...evidence, score, scoreOver: Math.max(0, Math.min(3, score - 1)), [`entry ${phrase}`]: 1 },
      };
    },
  };
}

/** What is written is checked against what is heard: recognisers write hesitations that are not there, and other words for them. */
function withConfidence(place: Place, { spoken, hesitation, calibration }: PreparedFillers): Found {
  const { first, count, strength } = place;
  if (strength === 'asked') return { ...place, confidence: ASKED };
  const evidence: Record<string, number> = { ...place.evidence, ...saidEvidence(spoken, first, count, hesitation) };
  const clean = (score = 0) => hundredth(spoken.clean * score);
  if (evidence.score !== undefined)
    Object.assign(evidence, {
      cleanScore: clean(evidence.score),
      cleanOver: clean(evidence.scoreOver),
    });
  const model = strength === 'always' ? calibration.hesitations : calibration.fillers;
  const judged = withOthers({ ...place, evidence, confidence: probabilityOf(model, evidence) }, spoken, first, count);
  return withGuessedTimes(judged, spoken, first, count);
}

/** A word as it is compared, but for its accents. */
const withAccents = (word: string): string =>
  word
    .normalize('NFC')
    .toLowerCase()
    .replace(/[^\p{L}\p{M}\p{N}]/gu, '');

/** Whether a phrase is said from a word on, by one speaker and with no sentence ending inside it. */
function isSaid({ plain, words }: Spoken, first: number, { parts, accented }: Entry): boolean {
  if (accented?.some((form, n) => withAccents(words[first + n]?.text ?? '') !== form)) return false;
  for (let n = 1; n < parts.length; n++) {
    if (plain[first + n] !== parts[n]) return false;
    if (/[.!?]$/.test(words[first + n - 1]?.text ?? '') || words[first + n]?.speaker !== words[first]?.speaker) return false;
  }
  return true;
}

/** Silence before “know” in which its “you” may have been swallowed: recognisers often write the second word alone. */
const SWALLOWED = 0.09;

function swallowed({ plain, words }: Spoken, k: number, byFirst: ReadonlyMap<string, readonly Entry[]>): Entry | undefined {
  const [before, word] = [words[k - 1], words[k] as Word];
  if (plain[k] !== 'know' || !before || !/,$/.test(before.text) || word.start - before.end < SWALLOWED) return undefined;
  const entry = byFirst.get('you')?.find((one) => one.entry.phrase === 'you know');
  return entry && { ...entry, parts: ['know'] };
}

interface Around {
  readonly duration: number;
  readonly loudest: Loudest;
  readonly settings: Settings;
}

/** A proposal with what it was made for: most steps of a slider and most corrections change nothing about most words. */
interface Made {
  readonly proposal: Proposal;
  readonly loudest: Loudest;
  readonly before: number;
  readonly after: number;
  readonly naturalGap: number;
  readonly longLeft: boolean;
  readonly longRight: boolean;
  readonly airBefore: number;
  readonly airAfter: number;
}
/** By the first of its words; then by how many they are, and of which kind it is. */
const MADE: Remembered<WeakMap<Word, Map<number, Made>>> = { begin: () => new WeakMap() };

/** A proposal about whole words, joined to what is left. */
export function proposalOf(
  kind: 'filler' | 'repeat',
  spoken: Spoken,
  first: number,
  count: number,
  { duration, loudest, settings }: Around,
  about: Pick<Proposal, 'confidence' | 'evidence'> & { readonly group: string },
): Proposal {
  const { words, naturalGap, memory } = spoken;
  const made = memory.of(MADE);
  const { airBefore, airAfter, minPause, fillerTreatment } = settings;
  const [from, to] = [words[first] as Word, words[first + count - 1] as Word];
  const { before, after } = sureOfOthers(words[first - 1], words[first + count], duration);
  const end = Math.max(to.end, from.start + 0.02);
  const [longLeft, longRight] = [from.start - before >= minPause, after - end >= minPause];
  const known = made.get(from) ?? new Map<number, Made>();
  made.set(from, known);
  const key = 2 * count + (kind === 'filler' ? 0 : 1);
  const last = known.get(key);
  if (
    last &&
    last.proposal.found.end === end &&
    last.loudest === loudest &&
    last.before === before &&
    last.after === after &&
    last.naturalGap === naturalGap &&
    last.longLeft === longLeft &&
    last.longRight === longRight &&
    last.airBefore === airBefore &&
    last.airAfter === airAfter &&
    last.proposal.treatment === fillerTreatment &&
    areSame(last.proposal.evidence, about.evidence) &&
    last.proposal.confidence === about.confidence &&
    last.proposal.group === about.group
  )
    return last.proposal;
  const found = { start: from.start, end };
  const taken = joinAround(found, { before, after, naturalGap }, loudest, settings);
  const range = fillerTreatment === 'hole' ? found : taken;
  const proposal: Proposal = {
    id: proposalId(kind, found),
    kind,
    start: range.start,
    end: range.end,
    found,
    taken: range,
    treatment: fillerTreatment,
    ...about,
  };
  known.set(key, { proposal, loudest, before, after, naturalGap, longLeft, longRight, airBefore, airAfter });
  return proposal;
}

function areSame(a: Proposal['evidence'], b: Proposal['evidence']): boolean {
  if (a === b) return true;
  const names = Object.keys(a);
  return names.length === Object.keys(b).length && names.every((name) => a[name] === b[name]);
}
