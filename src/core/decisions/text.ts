import { shareOut } from '../align/share.ts';
import type { Range } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';
import { wordsIn } from '../transcript/wordsIn.ts';
import type { DecisionEvent } from './event.ts';

/** Steps that change what is written, and never the media. */
export type TextStep = Extract<DecisionEvent, { type: 'correct' | 'speaker' }>;

/**
 * Words with corrections made, oldest first. As many words as before keep their times; more or fewer share the time of
 * those they replace; none leave it unwritten. A correction finds its words by the time it was about: those whose
 * middles lie in it.
 */
export function applyText(given: readonly Word[], steps: readonly TextStep[]): readonly Word[] {
  const words = [...given];
  for (const step of steps) {
    if (step.type === 'speaker') relabel(words, step);
    else for (const { about, text } of step.changes) correct(words, about, text);
  }
  return words;
}

function correct(words: Word[], about: Range, text: string): void {
  const [first, last] = wordsIn(words, about);
  if (first === last) return;
  const old = words.slice(first, last);
  const tokens = text.split(/\s+/u).filter((token) => token !== '');
  const span = { start: (old[0] as Word).start, end: Math.max(...old.map((word) => word.end)) };
  const { speaker } = old[0] as Word;
  const places = tokens.length === old.length ? old : shareOut(tokens, span, []);
  const fresh = tokens.map((token, k): Word => {
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
  words.splice(first, last - first, ...fresh);
}

function relabel(words: Word[], { from, about, to }: Extract<TextStep, { type: 'speaker' }>): void {
  const [first, last] = about ? wordsIn(words, about) : [0, words.length];
  for (let k = first; k < last; k++) {
    const word = words[k] as Word;
    if (from === undefined || word.speaker === from) words[k] = { ...word, speaker: to };
  }
}
