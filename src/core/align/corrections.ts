import { LRUCache } from 'lru-cache';
import type { Range } from '../time/range.ts';
import { Memory, type Remembered } from '../transcript/memory.ts';
import type { Word } from '../transcript/word.ts';
import { wordsIn } from '../transcript/wordsIn.ts';
import { shareOut } from './share.ts';

/** A step that changes what is written, and never the media: other words, or another speaker. */
export type TextStep = CorrectStep | SpeakerStep;

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

/**
 * Words with corrections made, oldest first. As many words as before keep their times; more or fewer share the time of
 * those they replace; none leave it unwritten. A correction finds its words by the time it was about: those whose
 * middles lie in it.
 * @param memory what corrections made before: the same ones give the same words again, so that what is known about them still holds
 */
export function applyText(given: readonly Word[], steps: readonly TextStep[], memory: Memory = new Memory()): readonly Word[] {
  const words = [...given];
  for (const step of steps) {
    if (step.type === 'speaker') relabel(words, step, memory.of(RELABELLED));
    else
      for (const [k, { about, text }] of step.changes.entries())
        correct(words, about, text, `${step.id} ${k}`, memory.of(WRITTEN));
  }
  return words;
}

interface Written {
  readonly text: string;
  readonly old: readonly Word[];
  readonly fresh: readonly Word[];
}

/** What a correction made of which words. */
const WRITTEN: Remembered<LRUCache<string, Written>> = { begin: () => new LRUCache({ max: 20_000 }) };

function correct(words: Word[], about: Range, text: string, key: string, written: LRUCache<string, Written>): void {
  const [first, last] = wordsIn(words, about);
  if (first === last) return;
  const old = words.slice(first, last);
  let known = written.get(key);
  if (known?.text !== text || known.old.length !== old.length || !known.old.every((word, k) => word === old[k])) {
    known = { text, old, fresh: writeAnew(old, text) };
    written.set(key, known);
  }
  words.splice(first, last - first, ...known.fresh);
}

function writeAnew(old: readonly Word[], text: string): Word[] {
  const tokens = text.split(/\s+/u).filter((token) => token !== '');
  const span = { start: (old[0] as Word).start, end: Math.max(...old.map((word) => word.end)) };
  const { speaker } = old[0] as Word;
  const places = tokens.length === old.length ? old : shareOut(tokens, span, []);
  return tokens.map((token, k): Word => {
    const { start, end } = places[k] as Range;
    const kept = tokens.length === old.length;
    return {
      text: token,
      start: kept ? start : Math.round(start * 1000) / 1000,
      end: kept ? end : Math.round(end * 1000) / 1000,
      // Somebody has read it.
      confidence: 1,
      speaker,
      timing: kept ? (old[k] as Word).timing : 'estimated',
    };
  });
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
