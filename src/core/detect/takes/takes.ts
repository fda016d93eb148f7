import type { Echo } from '../../curves/echoes.ts';
import type { DecidedTakes } from '../../decisions/takes.ts';
import { type Range, type Seconds, shareHalf, subtract } from '../../time/range.ts';
import type { Word } from '../../transcript/word.ts';
import { wordsIn } from '../../transcript/wordsIn.ts';
import { type Decided, type Detector, type Material, type Proposal, proposalId } from '../detector.ts';
import { loudestOf } from '../joining.ts';
import { lexiconOf, type Strength } from '../lexicon.ts';
import { pauses, silencesOf } from '../pauses.ts';
import { DEFAULT_SETTINGS, type Settings } from '../settings.ts';
import { spokenForm } from '../spoken.ts';
import { linksBySound, together } from './bySound.ts';
import { linksByWords } from './byWords.ts';
import { alignRows } from './columns.ts';
import { groupLinks, type LinkedSayings } from './grouping.ts';
import { differences } from './meaning.ts';
import { type Attempt, type Heard, judge, PARTS, scoreOf, WEIGHT_OF } from './scoring.ts';

/** Several sayings of one line, in order. */
export interface TakeGroup {
  /** its name in the cut list, counted through the recording */
  readonly name: string;
  readonly attempts: readonly (Attempt & { readonly score: number })[];
  /** the attempt that is suggested */
  readonly best: number;
  /** what stays of them: the one suggested, or what somebody chose */
  readonly kept: readonly Range[];
  /** somebody has chosen */
  readonly chosen: boolean;
  /** 0..1 that they are tries at the same line */
  readonly confidence: number;
  /** what is said otherwise so that the meaning changes */
  readonly differs: readonly string[];
  readonly by: Partial<Pick<LinkedSayings, 'words' | 'sound'>>;
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
  silences: readonly Range[] | undefined;
  /** the last answer, and what it was an answer to */
  last: { readonly key: string; readonly groups: readonly TakeGroup[] } | undefined;
}

interface Judged {
  readonly attempts: readonly Attempt[];
  readonly by: TakeGroup['by'];
  /** for each attempt what differs from each other one */
  readonly differs: (a: number, b: number) => readonly string[];
}

/** More words than this between two tries are something of their own, and stay. */
const REMARK = 12;
/** The same without words: more sound than this. */
const REMARK_SECONDS: Seconds = 4;
/** Taken beside an attempt so that no rest of the air stays that its pause leaves. */
const MARGIN: Seconds = 0.02;
/** Silences that part one saying from the next where there are no words. */
const SILENCE: Seconds = 0.2;
const LEAST_PART: Seconds = 0.05;

/**
 * Tries at a line that are not the one that stays, each with the silence and the remark behind it up to the next try.
 * The method in words is in docs/takes.md.
 */
export const takes: Detector<PreparedTakes> = {
  kind: 'retake',
  speed: 'slow',
  prepare: (material, spoken) => ({
    material,
    spoken: spoken(),
    ...NO_LEXICON,
    loudest: loudestOf(material.levels),
    silences: undefined,
    last: undefined,
    found: new Map(),
    named: new Map(),
  }),
  reword: (prepared, spoken) => ({
    ...prepared,
    spoken,
    ...NO_LEXICON,
    found: new Map(),
    named: new Map(),
    last: undefined,
  }),

  detect(prepared, settings, decided): Proposal[] {
    return takeGroups(prepared, settings, decided)
      .flatMap((group) => sparesOf(prepared, group, settings))
      .sort((a, b) => a.start - b.start);
  },
};

/** All groups of attempts: those found, those that somebody made or chose from, in order of time. */
export function takeGroups(prepared: PreparedTakes, settings: Settings, { takes: decided }: Decided): readonly TakeGroup[] {
  if (prepared.lexicon !== settings.lexicon) readLexicon(prepared, settings.lexicon);
  // Most sliders move nothing here: the same groups again spare all that is worked out about each.
  const key = JSON.stringify([settings.takes, ...PARTS.map((part) => settings[WEIGHT_OF[part]]), decided]);
  if (prepared.last?.key !== key) prepared.last = { key, groups: groupsBy(prepared, settings, decided) };
  return prepared.last.groups;
}

function groupsBy(prepared: PreparedTakes, settings: Settings, decided: Decided['takes']): TakeGroup[] {
  const found = settings.takes === 'off' ? [] : foundBy(prepared, settings.takes);
  const touched = (range: Range) => decided.some(({ about }) => about.some((known) => shareHalf(known, range)));
  const left = decided.length === 0 ? found : found.filter(({ attempts }) => !attempts.some(touched));
  const entries = [
    ...left.map((judged) => ({ judged, kept: undefined })),
    ...decided.map((made) => ({ judged: namedBy(prepared, made, found), kept: made.keep })),
  ].sort((x, y) => (x.judged.attempts[0]?.start ?? 0) - (y.judged.attempts[0]?.start ?? 0));
  return entries.map(({ judged, kept }, number) => groupOf(judged, kept, number, settings));
}

function groupOf(
  { attempts, by, differs }: Judged,
  kept: readonly Range[] | undefined,
  number: number,
  settings: Settings,
): TakeGroup {
  const scored = attempts.map((attempt) => ({ ...attempt, score: Math.round(100 * scoreOf(attempt.parts, settings)) / 100 }));
  const best = scored.reduce((chosen, { score }, k) => (score > (scored[chosen]?.score ?? 0) ? k : chosen), 0);
  const changed = scored.flatMap((attempt, k) => (k === best || attempt.broken ? [] : differs(k, best)));
  return {
    name: `take ${number + 1}`,
    attempts: scored,
    best,
    kept: kept ?? [scored[best] as Range],
    chosen: kept !== undefined,
    confidence: kept === undefined ? confidenceIn(by, changed.length > 0) : 1,
    differs: [...new Set(changed)],
    by,
  };
}

/** How likely it is that they are tries at one line, of what the witnesses say. Weights set by hand. */
function confidenceIn({ words, sound }: TakeGroup['by'], meaningDiffers: boolean): number {
  let sum = meaningDiffers ? -2.5 : 0;
  if (words)
    sum += -1.2 + 0.35 * Math.min(10, words.matches) + 2.2 * (words.share - 0.5) + (sound ? 4 * (0.5 - sound.closeness) : 0);
  else if (sound) sum += -0.8 + Math.min(3, sound.matched) + 8 * (0.42 - sound.closeness);
  return Math.round(100 / (1 + Math.exp(-sum))) / 100;
}

function foundBy(prepared: PreparedTakes, mode: 'words' | 'sound' | 'both'): readonly Judged[] {
  const known = prepared.found.get(mode);
  if (known) return known;
  const { spoken, material, hesitations } = prepared;
  const echoes: readonly Echo[] = mode === 'words' ? [] : (material.echoes ?? []);
  const links = together(
    mode === 'sound' ? [] : linksByWords(spoken, hesitations),
    linksBySound(echoes, mode === 'sound' ? NO_WORDS : spoken),
  );
  const found = groupLinks(links).map(({ sayings, words, sound }) => judged(prepared, sayings, { words, sound }));
  prepared.found.set(mode, found);
  return found;
}

const NO_WORDS = { words: [], plain: [] };

/** Attempts as somebody has laid them out, with what the witnesses said of those among them that were found. */
function namedBy(prepared: PreparedTakes, { attempts }: DecidedTakes, found: readonly Judged[]): Judged {
  const key = attempts.map(({ start, end }) => `${start}-${end}`).join();
  const known = prepared.named.get(key) ?? judged(prepared, attempts, {});
  prepared.named.set(key, known);
  const among = (one: Range) => attempts.some((attempt) => shareHalf(attempt, one));
  const by = found.find((group) => group.attempts.filter(among).length > 1)?.by;
  return by ? { ...known, by } : known;
}

function judged(prepared: PreparedTakes, sayings: readonly Range[], by: TakeGroup['by']): Judged {
  const { words, plain } = prepared.spoken;
  const heard = { ...prepared, silences: silencesIn(prepared) };
  const known = new Map<string, readonly string[]>();
  return {
    attempts: judge(sayings, heard),
    by,
    differs(a, b) {
      const key = `${a} ${b}`;
      let changed = known.get(key);
      if (!changed) {
        const rows = [a, b].map((k) => {
          const [first, last] = wordsIn(words, sayings[k] as Range);
          return { written: words.slice(first, last).map(({ text }) => text), plain: plain.slice(first, last) };
        });
        changed = differences(alignRows(rows.map((row) => row.plain)), rows);
        known.set(key, changed);
      }
      return changed;
    },
  };
}

/** Silences, worked out only where there are no words that would tell. */
function silencesIn(prepared: PreparedTakes): readonly Range[] {
  const { material, spoken } = prepared;
  if (spoken.words.length > 0) return [];
  prepared.silences ??= silencesOf(
    pauses.prepare(material, () => spoken),
    DEFAULT_SETTINGS,
    SILENCE,
  );
  return prepared.silences;
}

const NO_LEXICON = { lexicon: undefined, hesitations: new Set<string>(), cues: [] };

/** Other hesitations and cues than before: what was found by the old ones no longer holds. */
function readLexicon(prepared: PreparedTakes, setting: string): void {
  const lexicon = lexiconOf(prepared.spoken.language, setting);
  const phrases = (wanted: Strength) =>
    lexicon.filter(({ strength }) => strength === wanted).map(({ phrase }) => phrase.split(' ').map(spokenForm).join(' '));
  prepared.lexicon = setting;
  prepared.hesitations = new Set(phrases('always'));
  prepared.cues = phrases('cue');
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

const runsOf = new WeakMap<TakeGroup, readonly Run[]>();

/** What goes of a group: the parts of attempts that are not kept, run together where only a remark stands between. */
function sparesOf(prepared: PreparedTakes, group: TakeGroup, settings: Settings): readonly Proposal[] {
  const runs = runsOf.get(group) ?? runsIn(prepared, group);
  runsOf.set(group, runs);
  return runs.flatMap((run) => {
    const { start, end } = edgesOf(run, settings);
    if (run.made?.start !== start || run.made.end !== end) {
      const proposals = run.parts.map((part, k) => {
        const next = run.parts[k + 1];
        return spare(group, part, { start: k === 0 ? start : part.start, end: next ? next.start : end });
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
function goesAlong({ spoken: { words } }: PreparedTakes, { kept }: TakeGroup, before: Part, part: Part): boolean {
  if (kept.some(({ start, end }) => start < part.start && end > before.end)) return false;
  if (words.length === 0) return part.start - before.end <= REMARK_SECONDS;
  const [first, last] = wordsIn(words, { start: before.end, end: part.start });
  return last - first <= REMARK;
}

function edgesOf({ first, last, before, after, until }: Run, { airBefore, airAfter, minPause }: Settings): Range {
  const quietBefore = first.start - before >= minPause;
  const start = first.fromStart ? Math.max(before, first.start - (quietBefore ? airBefore + MARGIN : 0)) : first.start;
  if (!last.toEnd) return { start, end: last.end };
  const closes = first.fromStart ? quietBefore : false;
  return { start, end: Math.max(until, Math.min(after, closes ? after - airBefore : until + airAfter)) };
}

/** A part that begins with the cue that leads to it: "sorry, once more" belongs to the try that follows when that one goes. */
function withCueBefore({ spoken: { words, plain }, cues }: PreparedTakes, attempts: TakeGroup['attempts'], part: Part): Part {
  const before = attempts[part.attempt - 1];
  if (!part.fromStart || !before) return part;
  const [first, last] = wordsIn(words, { start: before.end, end: part.start });
  if (last === first || last - first > REMARK) return part;
  const remark = ` ${plain.slice(first, last).join(' ')} `;
  return cues.some((cue) => remark.includes(` ${cue} `)) ? { ...part, start: (words[first] as Word).start } : part;
}

/** End of what is said before, start of what is said after, and the end of what goes: with the remark before the next try. */
function besides(prepared: PreparedTakes, first: Range, last: Range, next: Range | undefined): [Seconds, Seconds, Seconds] {
  const { words } = prepared.spoken;
  const { duration } = prepared.material;
  if (words.length > 0) {
    const [from] = wordsIn(words, first);
    const [, to] = wordsIn(words, last);
    const [begin] = next ? wordsIn(words, next) : [to];
    const goesOn = begin - to <= REMARK && begin >= to ? begin : to;
    return [
      words[from - 1]?.end ?? 0,
      words[goesOn]?.start ?? duration,
      Math.max(last.end, (words[goesOn - 1] as Word | undefined)?.end ?? last.end),
    ];
  }
  const silences = silencesIn(prepared);
  const before = silences.findLast(({ start, end }) => start < first.start && end <= first.start + SILENCE);
  const upTo = next && next.start - last.end <= REMARK_SECONDS ? next.start : undefined;
  const behind = upTo
    ? silences.findLast(({ start, end }) => start >= last.end - SILENCE && end <= upTo + SILENCE)
    : silences.find(({ end }) => end > last.end);
  return [before?.start ?? 0, behind?.end ?? duration, Math.max(last.end, behind?.start ?? last.end)];
}

function spare({ name, attempts, best, confidence, differs, by, chosen }: TakeGroup, part: Part, taken: Range): Proposal {
  const attempt = attempts[part.attempt] as TakeGroup['attempts'][number];
  const found = { start: part.start, end: part.end };
  const parts = Object.entries(attempt.parts).map(([name, value]) => [name, Math.round(100 * value) / 100]);
  return {
    id: proposalId('retake', found),
    kind: 'retake',
    ...taken,
    found,
    taken,
    treatment: 'remove',
    confidence,
    group: name,
    evidence: {
      attempt: part.attempt + 1,
      attempts: attempts.length,
      suggested: best + 1,
      score: attempt.score,
      bestScore: attempts[best]?.score ?? 0,
      ...Object.fromEntries(parts),
      ...(by.words && { sameWords: by.words.matches }),
      ...(by.sound && { soundsAlike: Math.round(100 * (1 - by.sound.closeness)) / 100 }),
      ...(differs.length > 0 && { meaningDiffers: 1 }),
      ...(chosen && { chosen: 1 }),
    },
  };
}
