import type { Echo } from '../../curves/repeatedPassages.ts';
import { firstAfter, overlapOf, overlapWith, type Range, type Seconds, shareHalf, subtract } from '../../time/range.ts';
import type { Word } from '../../transcript/word.ts';
import { wordsIn } from '../../transcript/wordsIn.ts';
import { FITTED } from '../calibration/fitted.ts';
import type { Evidence } from '../calibration/logistic.ts';
import { type Decided, type Detector, type Material, type Proposal, proposalId } from '../detector.ts';
import type { Settings } from '../settings.ts';
import { loudestIn } from '../words/joining.ts';
import { lexiconOf, phrasesOf } from '../words/lexicon.ts';
import type { Spoken } from '../words/spoken.ts';
import { REMARK_SECONDS, reachAfter, unwrittenIn } from '../words/unwritten.ts';
import { withOthers } from '../words/wordEvidence.ts';
import { linksBySound, together } from './bySound.ts';
import { linksByWords } from './byWords.ts';
import type { DecidedTakes } from './decidedTakes.ts';
import { groupLinks } from './grouping.ts';
import { type Between, type Judgement, judgePair, type Said } from './sameLine.ts';
import { type Attempt, type Heard, judge, PARTS, scoreOf, WEIGHT_OF } from './scoring.ts';

/** Several sayings of one line, in order. */
export interface TakeGroup {
  /** its name in the cut list, counted through the recording */
  readonly name: string;
  readonly attempts: readonly ScoredAttempt[];
  /** the attempt that is suggested */
  readonly best: number;
  /** what stays of them: the one suggested, or what somebody chose */
  readonly kept: readonly Range[];
  /** somebody has chosen */
  readonly chosen: boolean;
  /** 0..1 that all of them are tries at the same line */
  readonly confidence: number;
  /** what is said otherwise */
  readonly differs: readonly string[];
}

export interface ScoredAttempt extends Attempt {
  readonly score: number;
  /** how likely it is that this one and the one suggested are tries at one line, and what tells */
  readonly sameLine: Judgement;
}

export interface PreparedTakes extends Omit<Heard, 'silences' | 'hesitations'> {
  /** the lexicon that what follows was found by */
  lexicon: string | undefined;
  hesitations: ReadonlySet<string>;
  /** phrases that are said to whoever cuts */
  cues: readonly string[];
  readonly material: Material;
  /** found once for each text and witness: no slider changes them */
  readonly found: Map<Settings['takes'], readonly Judged[]>;
  /** attempts that somebody has named, judged once */
  readonly named: Map<string, Judged>;
  /** parts that go together, of each group */
  readonly runs: WeakMap<TakeGroup, readonly Run[]>;
  /** the last answer, and what it was an answer to */
  last: { readonly key: string; readonly groups: readonly TakeGroup[] } | undefined;
}

interface Judged {
  readonly attempts: readonly Attempt[];
  /** how likely it is that two of them are tries at one line */
  readonly sameLine: (a: number, b: number) => Judgement;
}

/** More words than this between two tries are something of their own, and stay ... */
const REMARK = 3;
/** ... unless a cue or an apology is among them. */
const REMARK_WITH_CUE = 12;
/** Sayings that are less likely than this to be tries at one line are not proposed. */
const LEAST_PROBABILITY = 0.1;
/** Taken beside an attempt so that no rest of the air stays that its pause leaves. */
const MARGIN: Seconds = 0.02;
/** Silences that part one saying from the next where there are no words. */
const SILENCE: Seconds = 0.2;
const LEAST_PART: Seconds = 0.05;
/** A saying with a smaller share of sound than this was never said. */
const LEAST_HEARD = 0.15;
/** Word and sound nearer to one another than this follow at once. */
const TOUCHING: Seconds = 0.05;

/**
 * Tries at a line that are not the one that stays, each with the silence and the remark behind it up to the next try.
 * The method in words is in docs/takes.md.
 */
export const takes: Detector<PreparedTakes> = {
  kind: 'retake',
  scope: 'episode',
  reads: ['takes', 'lexicon', 'minPause', 'airBefore', 'airAfter', ...PARTS.map((part) => WEIGHT_OF[part])],
  readsDecided: true,
  speed: 'slow',
  prepare: (material, spoken) => ({
    material,
    spoken: spoken(),
    ...NO_LEXICON,
    loudest: loudestIn(material),
    last: undefined,
    found: new Map(),
    named: new Map(),
    runs: new WeakMap(),
  }),
  reword: (prepared, spoken) => ({
    ...prepared,
    spoken,
    ...NO_LEXICON,
    found: new Map(),
    named: new Map(),
    runs: new WeakMap(),
    last: undefined,
  }),

  detect(prepared, settings, decided): Proposal[] {
    return takeGroups(prepared, settings, decided)
      .flatMap((group) => sparesOf(prepared, group, settings))
      .sort((a, b) => a.start - b.start);
  },
};

/** All groups of attempts: those found, those that somebody made or chose from, in order of time. */
export function takeGroups(prepared: PreparedTakes, settings: Settings, { takes, removed }: Decided): readonly TakeGroup[] {
  if (prepared.lexicon !== settings.lexicon) readLexicon(prepared, settings.lexicon);
  // Most sliders move nothing here: the same groups again spare all that is worked out about each.
  const key = JSON.stringify([settings.takes, ...PARTS.map((part) => settings[WEIGHT_OF[part]]), takes, removed]);
  if (prepared.last?.key !== key) prepared.last = { key, groups: groupsBy(prepared, settings, { takes, removed }) };
  return prepared.last.groups;
}

function groupsBy(prepared: PreparedTakes, settings: Settings, { takes: decided, removed }: Decided): TakeGroup[] {
  const found = settings.takes === 'off' ? [] : foundBy(prepared, settings.takes);
  const touched = (range: Range) => decided.some(({ about }) => about.some((known) => shareHalf(known, range)));
  const left = decided.length === 0 ? found : found.filter(({ attempts }) => !attempts.some(touched));
  const gone = (prepared.material.recordings ?? []).filter(({ id }) => removed.includes(id));
  const entries = [
    ...left.map((judged): Entry => ({ judged, kept: undefined })),
    ...decided.map((made): Entry => ({ judged: namedBy(prepared, made), kept: made.keep })),
  ]
    .flatMap((entry) => (gone.length === 0 ? [entry] : withoutRemoved(entry, gone)))
    .sort((x, y) => (x.judged.attempts[0]?.start ?? 0) - (y.judged.attempts[0]?.start ?? 0));
  return entries.map(({ judged, kept }, number) => groupOf(judged, kept, number, settings));
}

interface Entry {
  readonly judged: Judged;
  /** what somebody chose to stay */
  readonly kept: readonly Range[] | undefined;
}

/**
 * A group without the attempts in recordings that were taken out of the episode: a try must not go for the sake of one that is not
 * there. Where what was chosen is not there, nothing is chosen; where one attempt is left, there is no group.
 */
function withoutRemoved(entry: Entry, gone: readonly Range[]): Entry[] {
  const { judged, kept } = entry;
  const isHere = (range: Range) => !gone.some((one) => overlapOf(one, range) > 0);
  const here = [...judged.attempts.keys()].filter((k) => isHere(judged.attempts[k] as Attempt));
  if (here.length === judged.attempts.length) return [entry];
  if (here.length < 2) return [];
  const stays = kept?.filter(isHere);
  return [{ judged: partOf(judged, here), kept: kept?.length && !stays?.length ? undefined : stays }];
}

/** Some attempts of a group. */
const partOf = ({ attempts, sameLine }: Judged, which: readonly number[]): Judged => ({
  attempts: which.map((k) => attempts[k] as Attempt),
  sameLine: (a, b) => sameLine(which[a] as number, which[b] as number),
});

function groupOf(
  { attempts, sameLine }: Judged,
  kept: readonly Range[] | undefined,
  number: number,
  settings: Settings,
): TakeGroup {
  const scores = attempts.map(({ parts }) => Math.round(100 * scoreOf(parts, settings)) / 100);
  const best = scores.reduce((chosen, score, k) => (score > (scores[chosen] ?? 0) ? k : chosen), 0);
  const scored = attempts.map((attempt, k) => ({ ...attempt, score: scores[k] as number, sameLine: sameLine(k, best) }));
  const others = scored.filter((_, k) => k !== best);
  return {
    name: `take ${number + 1}`,
    attempts: scored,
    best,
    kept: kept ?? [scored[best] as Range],
    chosen: kept !== undefined,
    confidence: kept === undefined ? Math.min(...others.map((attempt) => attempt.sameLine.probability)) : 1,
    differs: [...new Set(others.flatMap((attempt) => attempt.sameLine.differs))],
  };
}

function foundBy(prepared: PreparedTakes, mode: 'words' | 'sound' | 'both'): readonly Judged[] {
  const known = prepared.found.get(mode) ?? judgedGroups(prepared, mode).flatMap(likelyParts);
  prepared.found.set(mode, known);
  return known;
}

function judgedGroups(prepared: PreparedTakes, mode: 'words' | 'sound' | 'both'): Judged[] {
  const { spoken, material, hesitations } = prepared;
  const echoes = mode === 'words' ? undefined : material.echoes;
  const links = together(
    mode === 'sound' ? [] : linksByWords(spoken, hesitations),
    linksBySound(echoes ?? [], mode === 'sound' ? NO_WORDS : spoken),
  );
  const heard = links.filter(
    ({ left, right }) =>
      isHeard(spoken, left) && isHeard(spoken, right) && !(overlapOf(left, right) > 0 && shareHalf(left, right)),
  );
  return groupLinks(heard).map(({ sayings }) => judged(prepared, sayings, echoes));
}

/** Whether there is sound where something is said: a recogniser that hears nothing writes the line before once more. */
function isHeard({ words, sound }: Spoken, saying: Range): boolean {
  if (words.length === 0) return true;
  const length = saying.end - saying.start;
  return length - overlapWith(sound().silences, saying) >= LEAST_HEARD * length;
}

const NO_WORDS = { words: [], plain: [] };

/** Attempts as somebody has laid them out. */
function namedBy(prepared: PreparedTakes, { attempts }: DecidedTakes): Judged {
  const key = attempts.map(({ start, end }) => `${start}-${end}`).join();
  const known = prepared.named.get(key) ?? judged(prepared, attempts, prepared.material.echoes);
  prepared.named.set(key, known);
  return known;
}

function judged(prepared: PreparedTakes, sayings: readonly Range[], echoes: readonly Echo[] | undefined): Judged {
  const said: Said = {
    spoken: prepared.spoken,
    hesitations: prepared.hesitations,
    echoes,
    calibration: prepared.material.calibration ?? FITTED,
  };
  const attempts = judge(sayings, { ...prepared, silences: silencesIn(prepared) });
  const between = attempts.slice(1).map((attempt, k) => betweenOf(prepared, attempts[k] as Range, attempt));
  const recordingAt = (at: Seconds) => prepared.material.recordings?.find(({ start, end }) => at >= start && at < end);
  const known = new Map<number, Judgement>();
  const sameLine = (a: number, b: number): Judgement => {
    if (a === b) return THE_SAME;
    const [first, last] = [Math.min(a, b), Math.max(a, b)];
    const key = first * attempts.length + last;
    let judgement = known.get(key);
    if (!judgement) {
      const [left, right] = [attempts[first] as Attempt, attempts[last] as Attempt];
      const apart = between.slice(first, last);
      const stands = apart.reduce((most, one) => (one.words > most.words ? one : most));
      const unwritten = unwrittenBehind(prepared, left.end);
      const inOneRecording = recordingAt(left.start) === recordingAt(right.start);
      judgement = judgePair(
        {
          left,
          right,
          leftBroken: left.broken,
          rightBroken: right.broken,
          unwritten,
          between: { ...stands, far: apart.some(({ far }) => far) },
          inOneRecording,
        },
        said,
      );
      known.set(key, judgement);
    }
    return judgement;
  };
  return { attempts, sameLine };
}

const THE_SAME: Judgement = { probability: 1, evidence: {}, differs: [] };

/** What stands between two sayings. */
function betweenOf(prepared: PreparedTakes, left: Range, right: Range): Between {
  const { words, plain } = prepared.spoken;
  const gap = { start: left.end, end: Math.max(left.end, right.start) };
  const quiet = overlapWith(prepared.spoken.sound().silences, gap);
  const sounding = Math.max(0, gap.end - gap.start - quiet);
  const [first, last] = wordsIn(words, gap);
  const said = plain.slice(first, last).filter((word) => word !== '' && !prepared.hesitations.has(word));
  return {
    seconds: gap.end - gap.start,
    sounding,
    words: said.length,
    cue: said.length <= REMARK_WITH_CUE && hasCue(prepared, said),
    far: words.length > 0 ? !isRemarkOnly(prepared, gap) : sounding > REMARK_SECONDS,
  };
}

/** Sound that follows a saying's last word at once and that no word covers: a word that the recogniser left out, or a hesitation. */
function unwrittenBehind({ spoken, material }: PreparedTakes, end: Seconds): Seconds {
  const { words } = spoken;
  const { silences } = spoken.sound();
  const next = words[firstAfter(words.length, (k) => (words[k] as Word).start, end - TOUCHING)]?.start ?? material.duration;
  const silence = silences[firstAfter(silences.length, (k) => (silences[k] as Range).end, end + TOUCHING)]?.start;
  return Math.max(0, Math.min(next, silence ?? material.duration) - end);
}

function hasCue({ cues }: PreparedTakes, said: readonly string[]): boolean {
  const text = ` ${said.join(' ')} `;
  return cues.some((cue) => text.includes(` ${cue} `));
}

/** All pairs of sayings that are looked at, whatever comes of them: what the calibration is fitted to. */
export function pairsLookedAt(prepared: PreparedTakes, settings: Settings): { left: Range; right: Range; evidence: Evidence }[] {
  if (prepared.lexicon !== settings.lexicon) readLexicon(prepared, settings.lexicon);
  if (settings.takes === 'off') return [];
  return judgedGroups(prepared, settings.takes).flatMap(({ attempts, sameLine }) =>
    attempts.flatMap((right, b) => attempts.slice(0, b).map((left, a) => ({ left, right, evidence: sameLine(a, b).evidence }))),
  );
}

/** A group parted where two neighbours are hardly tries at one line: what is left on its own is none. */
function likelyParts(group: Judged): Judged[] {
  const { attempts, sameLine } = group;
  const runs: number[][] = [];
  for (let k = 0; k < attempts.length; k++) {
    const run = runs.find((known) => known.some((other) => sameLine(other, k).probability >= LEAST_PROBABILITY));
    if (run) run.push(k);
    else runs.push([k]);
  }
  return runs.filter((run) => run.length > 1).map((run) => partOf(group, run));
}

/** Silences, worked out only where there are no words that would tell. */
function silencesIn(prepared: PreparedTakes): readonly Range[] {
  if (prepared.spoken.words.length > 0) return [];
  return prepared.spoken.sound().silences.filter(({ start, end }) => end - start >= SILENCE);
}

const NO_LEXICON = { lexicon: undefined, hesitations: new Set<string>(), cues: [] };

/** Other hesitations and cues than before: what was found by the old ones no longer holds. */
function readLexicon(prepared: PreparedTakes, setting: string): void {
  const lexicon = lexiconOf(prepared.spoken.language, setting);
  prepared.lexicon = setting;
  prepared.hesitations = new Set(phrasesOf(lexicon, 'always'));
  prepared.cues = phrasesOf(lexicon, 'cue');
  prepared.last = undefined;
  prepared.found.clear();
  prepared.named.clear();
}

/** A part of an attempt that does not stay. */
interface Part extends Range {
  readonly attempt: number;
  /** whether it holds the attempt's own beginning and end, or was parted from it at a join */
  readonly fromStart: boolean;
  readonly toEnd: boolean;
}

/** Parts that go together, with what stands round them, and the proposals last made of them. */
interface Run {
  readonly parts: readonly Part[];
  /** the first part with the cue that leads to it */
  readonly first: Part;
  readonly last: Part;
  /** end of what is said before, start of what is said after, end of what goes */
  readonly before: Seconds;
  readonly after: Seconds;
  readonly until: Seconds;
  made: { readonly start: Seconds; readonly end: Seconds; readonly proposals: readonly Proposal[] } | undefined;
}

/** Evidence of this name and a pair of words says what is said otherwise: `otherwise nine / twelve`. */
export const OTHERWISE = 'otherwise ';

/** What goes of a group: the parts of attempts that are not kept, run together where only a remark stands between. */
function sparesOf(prepared: PreparedTakes, group: TakeGroup, settings: Settings): readonly Proposal[] {
  const runs = prepared.runs.get(group) ?? runsIn(prepared, group);
  prepared.runs.set(group, runs);
  return runs.flatMap((run) => {
    const { start, end } = edgesOf(run, settings);
    if (run.made?.start !== start || run.made.end !== end) {
      const proposals = run.parts.map((part, k) => {
        const next = run.parts[k + 1];
        const proposal = spare(group, part, { start: k === 0 ? start : part.start, end: next ? next.start : end });
        if (group.chosen) return proposal;
        const [from, to] = wordsIn(prepared.spoken.words, part);
        return to > from ? withOthers(proposal, prepared.spoken, from, to - from) : proposal;
      });
      run.made = { start, end, proposals };
    }
    return run.made.proposals;
  });
}

function runsIn(prepared: PreparedTakes, group: TakeGroup): Run[] {
  const parts = group.attempts.flatMap((attempt, k): Part[] =>
    subtract([attempt], group.kept)
      .filter(({ start, end }) => end - start >= LEAST_PART)
      .map(({ start, end }) => ({
        start,
        end,
        attempt: k,
        fromStart: start - attempt.start < LEAST_PART,
        toEnd: attempt.end - end < LEAST_PART,
      })),
  );
  const runs: Part[][] = [];
  for (const part of parts) {
    const before = runs.at(-1)?.at(-1);
    if (before && goesAlong(prepared, group, before, part)) runs.at(-1)?.push(part);
    else runs.push([part]);
  }
  return runs.map((run) => {
    const last = run.at(-1) as Part;
    const first = withCueBefore(prepared, group.attempts, run[0] as Part);
    const [before, after, until] = besides(prepared, first, last, group.attempts[last.attempt + 1]);
    return { parts: run, first, last, before, after, until, made: undefined };
  });
}

/** Whether what stands between two parts goes with them: silence, or a remark, and nothing that is kept. */
function goesAlong(prepared: PreparedTakes, { kept }: TakeGroup, before: Part, part: Part): boolean {
  const { words } = prepared.spoken;
  if (kept.some(({ start, end }) => start < part.start && end > before.end)) return false;
  if (words.length === 0) return part.start - before.end <= REMARK_SECONDS;
  return isRemarkOnly(prepared, { start: before.end, end: part.start });
}

/** Whether no more stands between two tries than a remark, written or not. */
const isRemarkOnly = (prepared: PreparedTakes, between: Range): boolean =>
  isRemark(prepared, wordsIn(prepared.spoken.words, between)) && unwrittenIn(prepared.spoken, between) <= REMARK_SECONDS;

/** Whether words between two tries belong to neither: a cue or an apology, or hardly any. */
function isRemark(prepared: PreparedTakes, [first, last]: readonly [number, number]): boolean {
  if (last - first <= REMARK) return true;
  return last - first <= REMARK_WITH_CUE && hasCue(prepared, prepared.spoken.plain.slice(first, last));
}

function edgesOf({ first, last, before, after, until }: Run, { airBefore, airAfter, minPause }: Settings): Range {
  const quietBefore = first.start - before >= minPause;
  const start = first.fromStart ? Math.max(before, first.start - (quietBefore ? airBefore + MARGIN : 0)) : first.start;
  if (!last.toEnd) return { start, end: last.end };
  const closes = first.fromStart ? quietBefore : false;
  return { start, end: Math.max(until, Math.min(after, closes ? after - airBefore : until + airAfter)) };
}

/** A part that begins with the cue that leads to it: "sorry, once more" belongs to the try that follows when that one goes. */
function withCueBefore(prepared: PreparedTakes, attempts: TakeGroup['attempts'], part: Part): Part {
  const { words, plain } = prepared.spoken;
  const before = attempts[part.attempt - 1];
  if (!part.fromStart || !before) return part;
  const [first, last] = wordsIn(words, { start: before.end, end: part.start });
  if (last === first || last - first > REMARK_WITH_CUE) return part;
  return hasCue(prepared, plain.slice(first, last)) ? { ...part, start: (words[first] as Word).start } : part;
}

/** End of what is said before, start of what is said after, and the end of what goes: with the remark before the next try. */
function besides(prepared: PreparedTakes, first: Range, last: Range, next: Range | undefined): [Seconds, Seconds, Seconds] {
  const { words } = prepared.spoken;
  const { duration } = prepared.material;
  if (words.length > 0) {
    const [from] = wordsIn(words, first);
    const [, to] = wordsIn(words, last);
    const [begin] = next ? wordsIn(words, next) : [to];
    const goesOn = begin >= to && isRemark(prepared, [to, begin]) ? begin : to;
    const until = Math.max(last.end, (words[goesOn - 1] as Word | undefined)?.end ?? last.end);
    const after = Math.min(words[goesOn]?.start ?? duration, Math.max(until, next?.start ?? duration));
    return [words[from - 1]?.end ?? 0, reachAfter(prepared.spoken, until, after), until];
  }
  const silences = silencesIn(prepared);
  const before = silences.findLast(({ start, end }) => start < first.start && end <= first.start + SILENCE);
  const upTo = next && next.start - last.end <= REMARK_SECONDS ? next.start : undefined;
  const behind = upTo
    ? silences.findLast(({ start, end }) => start >= last.end - SILENCE && end <= upTo + SILENCE)
    : silences.find(({ end }) => end > last.end);
  return [before?.start ?? 0, behind?.end ?? duration, Math.max(last.end, behind?.start ?? last.end)];
}

function spare({ name, attempts, best, chosen }: TakeGroup, part: Part, taken: Range): Proposal {
  const attempt = attempts[part.attempt] as ScoredAttempt;
  const found = { start: part.start, end: part.end };
  const parts = Object.entries(attempt.parts).map(([name, value]) => [name, Math.round(100 * value) / 100]);
  const { probability, evidence, differs } = attempt.sameLine;
  return {
    id: proposalId('retake', found),
    kind: 'retake',
    ...taken,
    found,
    taken,
    treatment: 'remove',
    confidence: chosen ? 1 : probability,
    group: name,
    evidence: {
      attempt: part.attempt + 1,
      attempts: attempts.length,
      suggested: best + 1,
      score: attempt.score,
      bestScore: attempts[best]?.score ?? 0,
      ...Object.fromEntries(parts),
      ...evidence,
      ...Object.fromEntries(differs.map((pair) => [`${OTHERWISE}${pair}`, 1])),
      ...(chosen && { chosen: 1 }),
    },
  };
}
