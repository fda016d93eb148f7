import { LRUCache } from 'lru-cache';
import { inMillis, type Range } from '../time/range.ts';
import { Memory, type Remembered } from '../transcript/memory.ts';
import type { Word } from '../transcript/word.ts';
import { wordsIn } from '../transcript/wordsIn.ts';
import type { FoundPlace } from './openRuns.ts';
import { shareOut } from './share.ts';

/** A step that changes what is written, and never the media: other words, another speaker, or where words of a correction were found. */
export type TextStep = CorrectStep | SpeakerStep | FoundStep;

interface CorrectStep {
  readonly id: string;
  readonly type: 'correct';
  readonly changes: readonly { readonly about: Range; readonly text: string }[];
}

interface SpeakerStep {
  readonly id: string;
  readonly type: 'speaker';
  /** all words of one speaker, of a stretch, or of both together */
  readonly from?: string | undefined;
  readonly about?: Range | undefined;
  readonly to: string;
}

interface FoundStep {
  readonly id: string;
  readonly type: 'found';
  /** the correction, and the stretch that it was about */
  readonly correction: string;
  readonly about: Range;
  /** where its words are said; empty where that could not be told */
  readonly places: readonly FoundPlace[];
}

/**
 * Words with corrections made, oldest first. As many words as before keep their times; more or fewer share the time of
 * those they replace, until they are found in the sound; none leave it unwritten. A correction finds its words by the time it was about: those whose
 * middles lie in it.
 * @param memory what corrections made before: the same ones give the same words again, so that what is known about them still holds
 */
export function applyText(given: readonly Word[], steps: readonly TextStep[], memory: Memory = new Memory()): readonly Word[] {
  return applied(given, steps, memory).words;
}

/** The same, with the words that each correction wrote by the name of its change. */
function applied(given: readonly Word[], steps: readonly TextStep[], memory: Memory) {
  const words = [...given];
  const written = new Map<string, readonly Word[]>();
  for (const step of steps) {
    if (step.type === 'speaker') relabel(words, step, memory.of(RELABELLED));
    else if (step.type === 'found') placeFound(words, step, written.get(nameOf(step.correction, step.about)), memory.of(FOUND));
    else
      for (const { about, text } of step.changes) {
        const name = nameOf(step.id, about);
        const fresh = correct(words, about, text, name, memory.of(WRITTEN));
        if (fresh) written.set(name, fresh);
      }
  }
  return { words, written };
}

/** What one change of a correction is called. */
const nameOf = (correction: string, { start, end }: Range): string => `${correction} ${start} ${end}`;

interface Written {
  readonly text: string;
  readonly old: readonly Word[];
  readonly fresh: readonly Word[];
}

/** What a correction made of which words. */
const WRITTEN: Remembered<LRUCache<string, Written>> = { begin: () => new LRUCache({ max: 20_000 }) };

function correct(
  words: Word[],
  about: Range,
  text: string,
  key: string,
  written: LRUCache<string, Written>,
): readonly Word[] | undefined {
  const [first, last] = wordsIn(words, about);
  if (first === last) return undefined;
  const old = words.slice(first, last);
  let known = written.get(key);
  if (known?.text !== text || known.old.length !== old.length || !known.old.every((word, k) => word === old[k])) {
    known = { text, old, fresh: writeAnew(old, text) };
    written.set(key, known);
  }
  words.splice(first, last - first, ...known.fresh);
  return known.fresh;
}

function writeAnew(old: readonly Word[], text: string): Word[] {
  const tokens = text.split(/\s+/u).filter((token) => token !== '');
  const span = { start: (old[0] as Word).start, end: Math.max(...old.map((word) => word.end)) };
  const { speaker } = old[0] as Word;
  const places = tokens.length === old.length ? old : shareOut(tokens, span, []);
  return tokens.map((token, k): Word => {
    const { start, end } = places[k] as Range;
    const kept = tokens.length === old.length ? old[k] : undefined;
    return {
      text: token,
      start: kept ? start : Math.round(start * 1000) / 1000,
      end: kept ? end : Math.round(end * 1000) / 1000,
      // Somebody has read it.
      confidence: 1,
      speaker,
      timing: kept ? kept.timing : 'estimated',
      ...(kept?.error !== undefined && { error: kept.error }),
    };
  });
}

interface Found {
  readonly before: readonly Word[];
  readonly after: readonly Word[];
}

/** Words with the times at which they were found. */
const FOUND: Remembered<LRUCache<string, Found>> = { begin: () => new LRUCache({ max: 20_000 }) };

/** Gives words of a correction their times, if they still stand as it wrote them and what is found keeps their order. */
function placeFound(
  words: Word[],
  { id, places }: FoundStep,
  written: readonly Word[] | undefined,
  found: LRUCache<string, Found>,
): void {
  const [begin, end] = [written?.[0], written?.at(-1)];
  if (!written || !begin || !end || places.length !== written.length) return;
  const [first, last] = wordsIn(words, { start: begin.start, end: end.end });
  const before = words.slice(first, last);
  const stand = before.length === written.length && before.every((word, k) => isAsWritten(word, written[k] as Word));
  const around = [words[first - 1], ...places, words[last]].filter((one) => one !== undefined);
  if (!stand || !around.every((one, k) => k === 0 || isBehind(one, around[k - 1] as Range))) return;
  let known = found.get(id);
  if (!known || !before.every((word, k) => word === known?.before[k])) {
    known = { before, after: before.map((word, k) => placedAt(word, places[k] as FoundPlace)) };
    found.set(id, known);
  }
  words.splice(first, last - first, ...known.after);
}

const isAsWritten = (word: Word, { text, start, end }: Word): boolean =>
  word.text === text && word.start === start && word.end === end;
const isBehind = (one: Range, before: Range): boolean =>
  one.start >= before.start && one.start + one.end >= before.start + before.end;

function placedAt(word: Word, { isLike, error, ...place }: FoundPlace): Word {
  const placed = { ...word, ...inMillis(place) };
  return isLike ? { ...placed, timing: 'measured', error } : placed;
}

/** Words that a correction wrote and that have no times of their own yet. */
export interface OpenCorrection {
  readonly correction: string;
  readonly about: Range;
  /** their places among all */
  readonly words: readonly number[];
}

/**
 * Corrected words, and those corrections whose words are still to be looked for in the sound. The times of all others count as known here: they
 * were looked for when they came.
 */
export function openCorrections(
  given: readonly Word[],
  steps: readonly TextStep[],
): { readonly words: readonly Word[]; readonly open: readonly OpenCorrection[] } {
  // Whose words they are makes no difference.
  const { words, written } = applied(
    given,
    steps.filter(({ type }) => type !== 'speaker'),
    new Memory(),
  );
  const placeOf = new Map(words.map((word, k) => [word, k]));
  const known = new Set(steps.flatMap((step) => (step.type === 'found' ? nameOf(step.correction, step.about) : [])));
  const changes = steps.flatMap((step) =>
    (step.type === 'correct' ? step.changes : []).map(({ about }) => {
      const name = nameOf(step.id, about);
      const fresh = known.has(name) ? [] : (written.get(name) ?? []);
      return { correction: step.id, about, fresh, words: fresh.flatMap((word) => placeOf.get(word) ?? []) };
    }),
  );
  // Those of which a later correction wrote over some are looked for with what stands beside them, and nothing is told of them.
  const sought = new Set(changes.flatMap((change) => change.words));
  const open = changes.filter(
    (change) => change.words.length === change.fresh.length && change.fresh.some(({ timing }) => timing === 'estimated'),
  );
  return {
    words: words.map((word, k) => (sought.has(k) ? word : { ...word, timing: 'measured' })),
    open: open.map(({ fresh: _, ...change }) => change),
  };
}

/** Words with another speaker. */
const RELABELLED: Remembered<WeakMap<Word, Word>> = { begin: () => new WeakMap() };

function relabel(words: Word[], { from, about, to }: SpeakerStep, relabelled: WeakMap<Word, Word>): void {
  const [first, last] = about ? wordsIn(words, about) : [0, words.length];
  for (let k = first; k < last; k++) {
    const word = words[k] as Word;
    if (from !== undefined && word.speaker !== from) continue;
    let known = relabelled.get(word);
    if (known?.speaker !== to) {
      known = { ...word, speaker: to };
      relabelled.set(word, known);
    }
    words[k] = known;
  }
}
